/** Something with names: its own, and others it is also found by. */
export interface Named {
  name: string;
  called?: readonly string[];
}

/** The words of a name in small letters and in the order of the alphabet, as the server compares names (core/match). */
export const wordsIn = (name: string) => split(name).sort().join(" ");

const split = (name: string) =>
  name
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

const namesOf = (x: Named) => [x.name, ...(x.called ?? [])];

/** The one thing that goes by a name; undefined where none does, or several do. */
export function one<T extends Named>(list: readonly T[], name: string): T | undefined {
  const words = wordsIn(name);
  const found = list.filter((x) => words !== "" && namesOf(x).some((n) => wordsIn(n) === words));
  return found.length === 1 ? found[0] : undefined;
}

/** How well typed words fit something: 0 not at all, 1 where its own name begins with them. All are to be in one of its names. */
export function fits(x: Named, typed: string): number {
  const words = split(typed);
  const within = (n: string) => words.every((w) => n.toLowerCase().includes(w));
  if (within(x.name)) return x.name.toLowerCase().startsWith(words[0] ?? "") ? 1 : 0.9;
  return (x.called ?? []).some(within) ? 0.5 : 0;
}

/** The filter of a list of choices whose keywords are their names, their own first. */
export const byNames = (_: string, typed: string, names: string[] = []) => fits({ name: names[0] ?? "", called: names.slice(1) }, typed);

/** What fits typed words, the best first; those that fit as well stay in their order. */
export const near = <T extends Named>(list: readonly T[], typed: string): T[] =>
  list
    .map((x) => ({ x, score: fits(x, typed) }))
    .filter((f) => f.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((f) => f.x);
