import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { api, take } from "../api/client";
import { ofPerson } from "../api/guard";
import { refreshBatch } from "../api/queries/batches";
import { Outbox, waitingBatches } from "./outbox";

/** The outboxes of this window, by batch. They outlive the screens that fill them: what waits is sent from anywhere. */
const open = new Map<number, Outbox>();

function outboxOf(batch: number, client: QueryClient): Outbox {
  const have = open.get(batch);
  if (have) return have;
  const made = new Outbox(
    batch,
    ({ batch: id, key, by, entry }) =>
      take(api.POST("/batches/{id}/entries", { params: { path: { id }, query: { key } }, headers: ofPerson(by), body: entry })),
    (id, next) => refreshBatch(client, id, next),
  );
  open.set(batch, made);
  return made;
}

export function useOutbox(batch: number): Outbox {
  const client = useQueryClient();
  return useMemo(() => outboxOf(batch, client), [batch, client]);
}

/** Sends what an earlier visit to the bench left, on whichever screen the window opens. */
export function Courier() {
  const client = useQueryClient();
  useEffect(() => {
    for (const batch of waitingBatches()) outboxOf(batch, client);
  }, [client]);
  return null;
}
