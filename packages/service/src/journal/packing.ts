import type { InstanceView } from "@yellow-harbor/protocol";
import type { JournalBatch, JournalRow } from "./event-log.ts";
import type { NewWebhookEvent } from "./webhook-store.ts";

/** An event as it was stored, by this version or another. */
export type AnyRow = Omit<JournalRow, "kind"> & { readonly kind: string };

/**
 * Rows as they cross between the threads: a few long strings instead of many small objects, since copying an object
 * between threads costs more than writing it to SQLite.
 */
export interface PackedRows {
  readonly seqs: Float64Array;
  readonly atMs: Float64Array;
  /** One kind a line; behind it the version of its form, where that is not the first. */
  readonly kinds: string;
  /** One body a line: JSON has no line breaks of its own. */
  readonly bodies: string;
}

export interface PackedBatch extends PackedRows {
  /** As one JSON text. */
  readonly instances: string;
  /** As one JSON text. */
  readonly webhookEvents: string;
}

const packed = (list: readonly object[]) => (list.length === 0 ? "" : JSON.stringify(list));
const unpacked = <T>(text: string) => (text === "" ? [] : (JSON.parse(text) as T[]));

export const packBatch = ({ rows, instances, webhookEvents = [] }: JournalBatch): PackedBatch => ({
  ...packRows(rows),
  instances: packed(instances),
  webhookEvents: packed(webhookEvents),
});
export const unpackBatch = (batch: PackedBatch): JournalBatch => ({
  rows: unpackRows(batch),
  instances: unpacked<InstanceView>(batch.instances),
  webhookEvents: unpacked<NewWebhookEvent>(batch.webhookEvents),
});

export function packRows(rows: readonly AnyRow[]): PackedRows {
  return {
    seqs: Float64Array.from(rows, (row) => row.seq),
    atMs: Float64Array.from(rows, (row) => row.atMs),
    kinds: rows.map(({ kind, version }) => (version === 1 ? kind : `${kind} ${version}`)).join("\n"),
    bodies: rows.map((row) => row.body).join("\n"),
  };
}

export function unpackRows({ seqs, atMs, kinds, bodies }: PackedRows): JournalRow[] {
  if (seqs.length === 0) return [];
  const kindOf = kinds.split("\n");
  const rows = bodies.split("\n").map((body, n) => {
    const written = kindOf[n] ?? "";
    const end = written.indexOf(" ");
    const isFirst = end < 0;
    const kind = (isFirst ? written : written.slice(0, end)) as JournalRow["kind"];
    return { seq: seqs[n] ?? 0, atMs: atMs[n] ?? 0, kind, version: isFirst ? 1 : Number(written.slice(end)), body };
  });
  if (rows.length !== seqs.length || kindOf.length !== seqs.length) throw new Error("a body holds a line break");
  return rows;
}
