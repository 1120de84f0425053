import { useQueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { useParams } from "react-router";
import { api, type Problem, problemOf, take } from "../../../api/client";
import { refreshBatch, useBatch, useBatchLots, useLags } from "../../../api/queries/batches";
import { useDevices } from "../../../api/queries/devices";
import { Failed, Loading } from "../../../parts/marks";
import { useFormats } from "../../../parts/shop";
import { underKey } from "../../../saving/insist";
import type { Entry } from "../../../saving/outbox";
import { useOutbox } from "../../../saving/outboxes";
import { today } from "../../../tongue/clock";
import type { Desk } from "./desk";
import { Screen } from "./Screen";

const STATES: Record<string, string> = { released: "released", rejected: "rejected", called_back: "called back" };

/** A batch at the bench. */
export default function Bench() {
  const id = Number(useParams().id);
  const client = useQueryClient();
  const { day } = useFormats();
  const batch = useBatch(id);
  const lots = useBatchLots(id);
  const lags = useLags();
  const devices = useDevices(5000);
  const outbox = useOutbox(id);
  const waiting = useSyncExternalStore(outbox.subscribe, outbox.snapshot);
  if (batch.isPending || devices.isPending) return <Loading what="the bench" />;
  if (batch.isError && !batch.data) return <Failed message={problemOf(batch.error).title} again={() => batch.refetch()} />;
  const b = batch.data;
  const decide = async (entry: Entry): Promise<Problem | null> => {
    try {
      const errand = `bench ${id} ${JSON.stringify(entry)}`;
      const next = await underKey(errand, (key) =>
        take(api.POST("/batches/{id}/entries", { params: { path: { id }, query: { key } }, body: entry })),
      );
      refreshBatch(client, id, next);
      return null;
    } catch (e) {
      void batch.refetch();
      return problemOf(e);
    }
  };
  const desk: Desk = {
    title: b.formula_name,
    code: b.code,
    batch: id,
    loads: b.record.loads,
    planned: b.planned ?? null,
    parts: b.parts,
    cooling: b.record.cooling,
    expected: b.record.jars_expected,
    closed:
      b.made_on > today()
        ? `This batch is planned for ${day(b.made_on, true)}.`
        : b.record.state !== "hold"
          ? `This batch is ${STATES[b.record.state] ?? b.record.state}.`
          : "",
    waiting,
    lotsFor: (line) => {
      const own = b.record.lines.find((l) => l.line === line);
      if (!own?.needs_lot) return null;
      return lots.data?.find((x) => x.line === line)?.lots ?? [];
    },
    lagOf: (cls) => lags.data?.find((l) => l.class === cls)?.grams,
    devices: devices.data ?? [],
    fact: (entry, what) => outbox.put(entry, what),
    decide,
    letGo: (key) => {
      outbox.letGo(key);
      void batch.refetch();
    },
    rehearsal: false,
    back: `/batches/${id}/${b.record.weighed ? "fill" : "weigh"}`,
  };
  return <Screen desk={desk} />;
}
