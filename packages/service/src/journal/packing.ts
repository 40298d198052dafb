import type { InstanceView } from "@yellow-harbor/protocol";
import type { JournalBatch, JournalRow } from "./journal.ts";

/**
 * A batch as it crosses to the journal's thread: a few long strings instead of many small objects, since copying an
 * object between threads costs more than writing it to SQLite.
 */
export interface PackedBatch {
  readonly atMs: Float64Array;
  /** One kind a line. */
  readonly kinds: string;
  /** One body a line: JSON has no line breaks of its own. */
  readonly bodies: string;
  readonly instances: readonly InstanceView[];
}

export function pack({ rows, instances }: JournalBatch): PackedBatch {
  return {
    atMs: Float64Array.from(rows, (row) => row.atMs),
    kinds: rows.map((row) => row.kind).join("\n"),
    bodies: rows.map((row) => row.body).join("\n"),
    instances,
  };
}

/** The batch again; its rows are numbered on from the event `lastSeq`. */
export function unpack({ atMs, kinds, bodies, instances }: PackedBatch, lastSeq: number): JournalBatch {
  if (atMs.length === 0) return { rows: [], instances };
  const kindOf = kinds.split("\n");
  const rows = bodies.split("\n").map((body, n) => {
    return { seq: lastSeq + n + 1, atMs: atMs[n] ?? 0, kind: kindOf[n] as JournalRow["kind"], body };
  });
  if (rows.length !== atMs.length || kindOf.length !== atMs.length)
    throw new Error("a body of the batch holds a line break");
  return { rows, instances };
}
