import type { DraftState } from "./useDraft";

/** Whether the styles follow from what is in it, and the way to change that. */
export function StyleWord({ draft, locked }: { draft: DraftState; locked: boolean }) {
  const { version, edit } = draft;
  if (locked) return null;
  const follow = (on: boolean) => edit("style", (v) => ({ ...v, style_by_lines: on }));
  return (
    <p className="mb-3 text-note text-ink-2">
      {version.style_by_lines ? (
        <>
          What it is, how it holds together and its keeping style follow from its lines and its name.{" "}
          <button type="button" className="min-h-6 font-semibold text-cobalt underline" onClick={() => follow(false)}>
            Choose them yourself
          </button>
        </>
      ) : (
        <>
          You chose what it is and how it keeps.{" "}
          <button type="button" className="min-h-6 font-semibold text-cobalt underline" onClick={() => follow(true)}>
            Let it follow from the lines
          </button>
        </>
      )}
    </p>
  );
}
