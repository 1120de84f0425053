import { useKept } from "../../../saving/kept";
import { type Note, TASTES } from "./making";

/** What it tasted like. */
export function Tasted({ formula, busy, note }: { formula: string; busy: boolean; note: Note }) {
  const [words, setWords, said] = useKept(`taste ${formula}`, "", "What it tasted like");
  const send = (w: string) => w.trim() && void note({ kind: "tasted", words: w.trim(), grams: 0 }, said);
  return (
    <form
      className="flex flex-wrap items-center gap-2 border-t border-rule pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        send(words);
      }}
    >
      <b className="font-title text-lead">Tasted</b>
      {TASTES.map((t) => (
        <button
          key={t}
          type="button"
          className="min-h-12 rounded-md border border-rule-strong bg-white px-3 text-body hover:border-cobalt"
          disabled={busy}
          onClick={() => send(t)}
        >
          {t}
        </button>
      ))}
      <input
        className="field h-12! min-w-40 flex-1 text-lead"
        aria-label="What it tasted like"
        placeholder="in your words"
        maxLength={200}
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <button type="submit" className="btn-line min-h-12" disabled={busy || !words.trim()}>
        Note it
      </button>
    </form>
  );
}
