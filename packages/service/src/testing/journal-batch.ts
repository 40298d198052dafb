import type { JournalBatch } from "../journal/event-log.ts";

/** So many small events from a number on, a millisecond apart. */
export const batch = (fromSeq: number, count = 3): JournalBatch => ({
  rows: Array.from({ length: count }, (_, n) => ({
    seq: fromSeq + n,
    atMs: 1000 + n,
    kind: "room.ready-set" as const,
    version: 1,
    body: `{"n":${fromSeq + n}}`,
  })),
  instances: [],
});
