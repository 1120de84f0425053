/** What two sides made of the same place, where they differ. */
export interface Difference {
  path: string;
  mine: unknown;
  theirs: unknown;
}

/** Two sides merged. value has theirs where only they changed it, and mine where both did; clashes lists those. */
interface Merged<T> {
  value: T;
  clashes: Difference[];
}

type Plain = Record<string, unknown>;
const isPlain = (x: unknown): x is Plain => typeof x === "object" && x !== null && !Array.isArray(x);
const named = (x: unknown): x is { id: string | number }[] =>
  Array.isArray(x) && x.length > 0 && x.every((e) => isPlain(e) && (typeof e.id === "string" || typeof e.id === "number"));

export function same(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => same(x, b[i]));
  if (isPlain(a) && isPlain(b)) return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => same(a[k], b[k]));
  return false;
}

/** Three-way merge of plain data; what carries an id is matched by it, wherever it stands in its list. */
export function merge<T>(base: T, mine: T, theirs: T): Merged<T> {
  const clashes: Difference[] = [];
  const value = both(base, mine, theirs, "", clashes) as T;
  return { value, clashes };
}

function both(base: unknown, mine: unknown, theirs: unknown, path: string, clashes: Difference[]): unknown {
  if (same(mine, theirs) || same(base, theirs)) return mine;
  if (same(base, mine)) return theirs;
  if (isPlain(mine) && isPlain(theirs) && (isPlain(base) || base === undefined)) {
    const from: Plain = isPlain(base) ? base : {};
    const out: Plain = {};
    for (const k of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
      const v = both(from[k], mine[k], theirs[k], path ? `${path}.${k}` : k, clashes);
      if (v !== undefined) out[k] = v;
    }
    return out;
  }
  if (
    (named(mine) || named(theirs)) &&
    [base, mine, theirs].every((x) => x === undefined || (Array.isArray(x) && (x.length === 0 || named(x))))
  )
    return list(
      base as { id: string }[] | undefined,
      mine as { id: string }[] | undefined,
      theirs as { id: string }[] | undefined,
      path,
      clashes,
    );
  clashes.push({ path, mine, theirs });
  return mine;
}

/** Rows by their id: mine in my order, theirs that are new put after what they stood after, those that one side took out gone. */
function list(
  base: { id: string }[] = [],
  mine: { id: string }[] = [],
  theirs: { id: string }[] = [],
  path: string,
  clashes: Difference[],
) {
  const was = new Map(base.map((x) => [x.id, x]));
  const my = new Map(mine.map((x) => [x.id, x]));
  const their = new Map(theirs.map((x) => [x.id, x]));
  const order = (x: { id: string }[], other: Map<string, unknown>) => x.map((e) => e.id).filter((id) => was.has(id) && other.has(id));
  // the order follows whoever changed it; where both did, mine stands and it is no clash: nothing is lost
  const moved = !same(order(mine, their), order(base, new Map([...my].filter(([id]) => their.has(id)))));
  const [lead, other] = moved ? [mine, theirs] : [theirs, mine];
  const ids = lead.map((x) => x.id);
  other.forEach((x, i) => {
    if (ids.includes(x.id)) return;
    const before = other[i - 1]?.id;
    ids.splice(before === undefined ? 0 : ids.indexOf(before) + 1 || ids.length, 0, x.id);
  });
  const out: unknown[] = [];
  for (const id of ids) {
    const [b, m, t] = [was.get(id), my.get(id), their.get(id)];
    if (m && t) out.push(both(b, m, t, `${path}[${id}]`, clashes));
    else if (m && !same(m, b)) {
      if (b) clashes.push({ path: `${path}[${id}]`, mine: m, theirs: undefined });
      out.push(m);
    } else if (t && !same(t, b)) {
      if (b) clashes.push({ path: `${path}[${id}]`, mine: undefined, theirs: t });
      else out.push(t);
    }
  }
  return out;
}
