import type { ReactNode } from "react";

const STATES: Record<string, { word: string; tone: string; shape: ReactNode }> = {
  draft: { word: "draft", tone: "border-mustard text-mustard-ink bg-mustard-tint", shape: <path d="M2 9l1-3 5-5 2 2-5 5z" /> },
  locked: {
    word: "locked",
    tone: "border-cobalt text-cobalt bg-cobalt-tint",
    shape: <path d="M3 5V3.500a2.500 2.500 0 0 1 5 0V5h1v6H2V5z" />,
  },
  hold: { word: "on hold", tone: "border-beet text-beet bg-beet-tint", shape: <path d="M2 1h3v10H2zM7 1h3v10H7z" /> },
  released: {
    word: "released",
    tone: "border-leaf text-leaf bg-leaf-tint",
    shape: <path d="M1 6l3.500 4L11 2.500 9.500 1 4.500 7 2.500 4.500z" />,
  },
  called_back: {
    word: "called back",
    tone: "border-beet text-white bg-beet",
    shape: <path d="M6 1L1 5l5 4V6.500c2.500 0 4 1 4 4.500 1.500-4 .500-7.500-4-7.500z" />,
  },
  rejected: {
    word: "rejected",
    tone: "border-ink-2 text-ink-2 bg-glaze-deep",
    shape: <path d="M2 1l4 4 4-4 1 1-4 4 4 4-1 1-4-4-4 4-1-1 4-4-4-4z" />,
  },
  current: {
    word: "up to date",
    tone: "border-leaf text-leaf bg-leaf-tint",
    shape: <path d="M1 6l3.500 4L11 2.500 9.500 1 4.500 7 2.500 4.500z" />,
  },
  out_of_date: { word: "out of date", tone: "border-mustard text-mustard-ink bg-mustard-tint", shape: <path d="M6 1l6 10H0z" /> },
  stop_using: { word: "stop using", tone: "border-beet text-beet bg-beet-tint", shape: <path d="M4 1h4l3 3v4l-3 3H4L1 8V4z" /> },
};

/** A state: never colour alone, always a word and a shape. */
export function State({ of, word }: { of: string; word?: string }) {
  const s = STATES[of] ?? { word: of, tone: "border-rule-strong text-ink-2", shape: null };
  return (
    <span className={`inline-flex items-center gap-1.5 rounded-sm border-2 px-2 py-px text-note font-semibold whitespace-nowrap ${s.tone}`}>
      <svg width="11" height="12" viewBox="0 0 12 12" fill="currentColor" aria-hidden="true">
        {s.shape}
      </svg>
      {word ?? s.word}
    </span>
  );
}

/** A caution in the margin, with its way out. */
export function Caution({ level, title, children }: { level: string; title: string; children?: ReactNode }) {
  const edge = level === "danger" ? "border-beet" : level === "good" ? "border-leaf" : "border-mustard";
  return (
    <div className={`border-l-4 ${edge} py-0.5 pl-2.5 text-note leading-normal`}>
      <b className={level === "danger" ? "text-beet" : ""}>{title}</b> {children}
    </div>
  );
}

/** Declared words with ** around what is emphasised. */
export function Emphasised({ text }: { text: string }) {
  return (
    <>
      {text.split("**").map((run, i) =>
        // biome-ignore lint/suspicious/noArrayIndexKey: runs have no identity but their place
        i % 2 === 1 ? <b key={i}>{run}</b> : <span key={i}>{run}</span>,
      )}
    </>
  );
}

/** A paper label tied on: the words that law governs. */
export function PaperTag({ children }: { children: ReactNode }) {
  return (
    <div className="relative border border-paper-edge bg-paper px-3.5 pt-3 pb-3 text-note leading-normal shadow-lift">
      <span aria-hidden className="absolute -top-1.25 left-1/2 -ml-1.5 size-2.25 rounded-full border border-paper-edge bg-glaze" />
      {children}
    </div>
  );
}

export function Segmented<T extends string>({
  value,
  onChange,
  options,
  label,
}: {
  value: T;
  onChange: (v: T) => void;
  options: readonly (readonly [T, string])[];
  label: string;
}) {
  return (
    <fieldset className="inline-flex text-note">
      <legend className="sr-only">{label}</legend>
      {options.map(([v, text]) => (
        <button
          key={v}
          type="button"
          aria-pressed={v === value}
          onClick={() => onChange(v)}
          className={`min-h-6 border px-2.5 py-px ${v === value ? "border-ink bg-ink text-white" : "border-rule-strong bg-white"}`}
        >
          {text}
        </button>
      ))}
    </fieldset>
  );
}

export function Loading({ what }: { what: string }) {
  return <p className="p-6 text-ink-2">Fetching {what} …</p>;
}

export function Failed({ message, again }: { message: string; again?: () => void }) {
  return (
    <div className="m-6 max-w-xl">
      <Caution level="danger" title={message}>
        {again && (
          <button type="button" className="btn-quiet" onClick={again}>
            Try again
          </button>
        )}
      </Caution>
    </div>
  );
}
