import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, newKey, type Problem, problemOf, type Schemas, take } from "../../../api/client";
import { useLags } from "../../../api/queries/batches";
import { keys } from "../../../api/queries/keys";
import { Failed, Loading } from "../../../parts/marks";
import { useMe } from "../../../parts/session";
import { useFormats } from "../../../parts/shop";
import type { Entry, Waiting } from "../../../saving/outbox";
import type { Desk, Device } from "./desk";
import { better, type Round, roundOf, type Shot, shot } from "./rounds";
import { Screen } from "./Screen";

type View = Schemas["RehearsalView"];

/** A rehearsal is made of so many jars: small enough to be through in a few minutes. */
const JARS = 8;

const place = (name: string, formula: string) => `rehearsed ${name} ${formula}`;

function kept(key: string): Round[] {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "[]") as Round[];
  } catch {
    return [];
  }
}

const plain = (title: string): Problem => ({ status: 422, code: "rehearsal", title, fields: [] });

/** The bench with a scale of its own and nothing written: the pour, the hold-back and the over-pour on a product of the shop. */
export default function Rehearse() {
  const { formula = "", version = "1" } = useParams();
  const me = useMe();
  const [turn, setTurn] = useState(0);
  const [round, setRound] = useState<Round | null>(null);
  const key = place(me.name, formula);
  const done = useCallback(
    (r: Round) => {
      localStorage.setItem(key, JSON.stringify([...kept(key), r].slice(-10)));
      setRound(r);
    },
    [key],
  );
  const again = () => {
    setRound(null);
    setTurn(turn + 1);
  };
  if (round) return <After rounds={kept(key)} round={round} formula={formula} version={version} again={again} />;
  return <Play key={turn} formula={formula} version={Number(version)} onDone={done} />;
}

function Play({ formula, version, onDone }: { formula: string; version: number; onDone: (r: Round) => void }) {
  const lags = useLags();
  const [acts, setActs] = useState<Entry[]>([]);
  const [shots, setShots] = useState<Shot[]>([]);
  const latest = useRef<View | null>(null);
  const play = useCallback(
    (list: Entry[]) => take(api.POST("/rehearse", { body: { formula, version, jars: JARS, acts: list } })),
    [formula, version],
  );
  const first = useQuery({
    queryKey: keys.batches.rehearsal(formula, version),
    queryFn: () => play([]),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [view, setView] = useState<View | null>(null);
  const now = view ?? first.data ?? null;
  latest.current = now;
  const token = useMemo(() => newKey().slice(0, 10), []);
  const list = useRef<Entry[]>([]);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const act = (entry: Entry): Promise<Problem | null> => {
    const run = async () => {
      const next = [...list.current, entry];
      try {
        const v = await play(next);
        if (v.refused) return plain(v.refused);
        const load = latest.current?.loads.find((l) => l.no === entry.capture?.load);
        const s = load && entry.capture ? shot(load, entry.capture) : null;
        if (s) setShots((old) => [...old, s]);
        list.current = next;
        setActs(next);
        setView(v);
        return null;
      } catch (e) {
        return problemOf(e);
      }
    };
    const answer = queue.current.then(run);
    queue.current = answer.catch(() => null);
    return answer;
  };
  const [refused, setRefused] = useState<{ what: string; why: string } | null>(null);
  const [going, setGoing] = useState<readonly Waiting[]>([]); // acts that are not answered yet
  const ended = !!now && now.loads.length > 0 && now.loads.every((l) => l.closed_by);
  const end = useRef(onDone);
  end.current = onDone;
  useEffect(() => {
    if (!ended) return;
    const choices = acts.filter((a) => a.kind === "choice").length;
    end.current(roundOf(new Date().toISOString(), shots, choices, acts.filter((a) => a.kind === "tasted").length));
  }, [ended, acts, shots]);
  if (first.isPending) return <Loading what="the rehearsal" />;
  if (!now) return <Failed message={problemOf(first.error).title} again={() => first.refetch()} />;
  const scale = (id: string, s: Schemas["Scale"]): Device => ({
    id: `rehearse-${token}${id}`,
    kind: "scale",
    name: s.name,
    division_g: s.division_g,
    capacity_g: s.capacity_g,
    stand_in: true,
    counts: false,
    reading: { seq: 0, value: 0, unit: "g", mv: null, celsius: null, steady: false, over: false, fault: "", answers: true, at: "" },
  });
  const desk: Desk = {
    title: now.name,
    code: "",
    batch: 0,
    loads: now.loads,
    planned: now.planned,
    parts: now.parts,
    cooling: [],
    expected: now.jars_expected,
    closed: "",
    waiting: [
      ...(refused
        ? [{ key: "refused", batch: 0, entry: { kind: "ticked" as const }, what: refused.what, by: "", at: 0, refused: refused.why }]
        : []),
      ...going,
    ],
    lotsFor: () => null,
    lagOf: (cls) => lags.data?.find((l) => l.class === cls)?.grams,
    devices: [scale("b", now.planned.scale), ...(now.planned.fine_scale.division_g > 0 ? [scale("f", now.planned.fine_scale)] : [])],
    fact: (entry, what) => {
      const key = newKey();
      setGoing((list) => [...list, { key, batch: 0, entry, what, by: "", at: 0 }]);
      void act(entry).then((p) => {
        setGoing((list) => list.filter((w) => w.key !== key));
        if (p) setRefused({ what, why: p.title });
      });
    },
    decide: act,
    letGo: () => setRefused(null),
    rehearsal: true,
    back: `/plan/${formula}/${version}`,
  };
  return (
    <div className="flex h-full flex-col">
      <Coach shots={shots} acts={acts} view={now} />
      <div className="min-h-0 flex-1">
        <Screen desk={desk} />
      </div>
    </div>
  );
}

/** What to try next, one thing at a time. */
function Coach({ shots, acts, view }: { shots: Shot[]; acts: Entry[]; view: View }) {
  const { num } = useFormats();
  const last = shots.at(-1);
  const overs = acts.filter((a) => a.kind === "choice").length;
  const open = view.loads.some((l) => l.over);
  const tip =
    shots.length === 0 && !view.loads[0]?.zero
      ? "The bowl is on the scale. Tare, so that it counts from nothing."
      : shots.length === 0
        ? "Hold “hold to pour”, let go a little before the target: what is in the air still falls. Then take the weight."
        : open
          ? "Too much is in. Read what each way does; putting the ratio right keeps the taste and gives more jars."
          : overs === 0 && shots.length >= 2
            ? "Now pour one too far on purpose, by a tenth: better here than in the bowl."
            : "Go on: each pour a little nearer.";
  return (
    <p className="flex flex-wrap items-baseline gap-x-5 bg-mustard-tint px-5 py-2 text-lead" role="status">
      <b className="text-mustard-ink">Rehearsal.</b> {tip}
      {last && (
        <span className="ml-auto whitespace-nowrap text-ink-2">
          {last.name}:{" "}
          <b className="text-ink">
            {last.off > 0 ? "+" : ""}
            {num(last.off, 1)} %
          </b>
        </span>
      )}
    </p>
  );
}

/** What was off and by how much, and how it got better. */
function After({
  rounds,
  round,
  formula,
  version,
  again,
}: {
  rounds: Round[];
  round: Round;
  formula: string;
  version: string;
  again: () => void;
}) {
  const { num, moment } = useFormats();
  const most = Math.max(2, ...round.shots.map((s) => Math.abs(s.off)));
  const way = better(round.shots);
  const before = rounds.at(-2);
  return (
    <div className="mx-auto h-full max-w-245 overflow-auto px-6 py-6">
      <h1 className="font-title figure font-semibold">On average {num(round.mean, 1)} % off</h1>
      <p className="mt-1 text-title text-ink-2">
        {way && `The first pours were ${num(way.first, 1)} % off, the last ${num(way.last, 1)} %. `}
        {before && `The time before, ${moment(before.at)}: ${num(before.mean, 1)} %. `}
        {round.over > 0 ? `${round.over} over-pour${round.over > 1 ? "s" : ""} settled` : "No over-pour was tried"}
        {round.tastes > 0 ? `, ${round.tastes} hold-back${round.tastes > 1 ? "s" : ""} tasted.` : "."} Nothing was written.
      </p>
      <table className="ledger mt-4 w-full text-lead">
        <thead>
          <tr>
            <th>pour</th>
            <th className="num">meant</th>
            <th className="num">came to</th>
            <th className="w-80 pl-6">off by</th>
            <th className="num" />
          </tr>
        </thead>
        <tbody>
          {round.shots.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: pours in their order
            <tr key={i}>
              <td>{s.name}</td>
              <td className="num">
                {num(s.target, 1)}
                <span className="unit">g</span>
              </td>
              <td className="num">
                {num(s.grams, 1)}
                <span className="unit">g</span>
              </td>
              <td className="pl-6">
                <svg viewBox="-100 0 200 16" className="h-4 w-full" aria-hidden="true">
                  <path d="M0 0v16" stroke="var(--color-ink)" />
                  <rect
                    x={Math.min(0, (95 * s.off) / most)}
                    y="3"
                    width={Math.max(1, (95 * Math.abs(s.off)) / most)}
                    height="10"
                    fill={s.off > 0 ? "var(--color-beet)" : "var(--color-cobalt)"}
                  />
                </svg>
              </td>
              <td className="num font-semibold">
                {s.off > 0 ? "+" : ""}
                {num(s.off, 1)} %
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rounds.length > 1 && (
        <p className="mt-4 text-lead text-ink-2">Round by round: {rounds.map((r) => `${num(r.mean, 1)} %`).join(" → ")}</p>
      )}
      <p className="mt-5 flex gap-3">
        <button type="button" className="btn min-h-14! text-title" onClick={again}>
          Once more
        </button>
        <Link to={`/plan/${formula}/${version}`} className="btn-line inline-flex min-h-14! items-center text-title">
          To the plan
        </Link>
      </p>
    </div>
  );
}
