import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { problemOf } from "../../api/client";
import { useCost } from "../../api/queries/costs";
import { Head } from "../../parts/form";
import { Failed, Loading, State } from "../../parts/marks";
import { NumberField } from "../../parts/number";
import { SelectField } from "../../parts/select";
import { CurveOf } from "./CurveOf";
import { Ladder } from "./Ladder";
import { Moves } from "./Moves";
import { StackOf } from "./StackOf";
import { Was } from "./Was";
import { WaysOf } from "./WaysOf";
import { type Case, WhatIfs } from "./WhatIfs";

/** What a jar costs: the stack of one jar first, then the size of batch, what moves it, and what to ask. */
export default function Cost() {
  const { formula = "", version = "0" } = useParams();
  const [params, setParams] = useSearchParams();
  const [cases, setCases] = useState<Case[]>([]);
  const jars = Number(params.get("jars") ?? 0);
  const vessel = params.get("in");
  const q = useCost(formula, Number(version), {
    jars: Number.isInteger(jars) && jars > 0 ? jars : 0,
    vessel: vessel === null ? null : Number(vessel),
    cases: cases.map(({ name, changes }) => ({ name, changes })),
  });
  const set = (key: string, value: string) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        next.set(key, value);
        return next;
      },
      { replace: true },
    );
  if (q.isPending) return <Loading what="the cost" />;
  const problem = q.error ? problemOf(q.error) : null;
  const v = q.data;
  if (!v) return <Failed message={problem?.fields[0]?.message ?? problem?.title ?? ""} again={() => q.refetch()} />;
  const file = (ending: string) => `/api/formulas/${v.formula}/versions/${v.version}/cost.${ending}?jars=${v.jars}&in=${v.vessel}`;
  return (
    <div className="flex h-full flex-col px-6 pt-4">
      <Head
        title={v.name}
        sub={
          <>
            what a jar costs, version <b className="text-ink">{v.version}</b>
          </>
        }
        state={<State of={v.state} />}
      >
        <Link to={`/formulas/${v.formula}/${v.version}`} className="btn-quiet inline-flex items-center">
          Its sheet
        </Link>
        <a className="btn-line inline-flex items-center" href={file("xlsx")} download>
          Cost as a spreadsheet
        </a>
        <a className="btn-quiet inline-flex items-center" href={file("csv")} download>
          as CSV
        </a>
      </Head>
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-[404px_minmax(0,1fr)] gap-6 overflow-y-auto pb-6 max-desk:grid-cols-[344px_minmax(0,1fr)] max-tablet:grid-cols-1">
        <div className="min-w-0">
          <div className="mb-3 grid grid-cols-[112px_minmax(0,1fr)] gap-3">
            <NumberField
              late
              label="A batch of"
              unit="jars"
              reason={[1, 5000]}
              value={v.jars}
              error={problem?.fields.find((f) => f.field === "jars")?.message}
              onValue={(n) => n && set("jars", String(n))}
            />
            <SelectField
              label="made in"
              value={String(v.vessel)}
              options={[["0", "no vessel named: one load"], ...v.vessels.map((x) => [String(x.id), x.name] as const)]}
              onValue={(chosen) => set("in", chosen)}
            />
          </div>
          <StackOf stack={v.stack} formula={v.formula} />
        </div>
        <div className="grid min-w-0 content-start gap-6">
          <WhatIfs view={v} cases={cases} problem={problem} onChange={setCases} />
          <CurveOf view={v} onJars={(n) => set("jars", String(n))} />
          <Moves moves={v.moves} perJar={v.stack.per_jar} />
          <Ladder view={v} />
          <WaysOf view={v} />
          <Was formula={v.formula} />
        </div>
      </div>
    </div>
  );
}
