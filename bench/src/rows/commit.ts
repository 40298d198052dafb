import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";

const MEASURE_MS = 2_000;

/** Events made durable through the journal, beside the same rows by prepared inserts. */
export const commit: Row = {
  name: "commit",
  about:
    "durable events through the journal; ceiling: prepared better-sqlite3 inserts of the same rows, 100 a transaction, WAL, FULL",
  unit: "events/s",
  goal: 0.7,
  higherIsBetter: true,
  rounds: 7,
  prepare: async () => {
    const helper = startHelper("commit-process");
    const measure = async (what: "ours" | "ceiling") =>
      (await helper.ask<{ perSecond: number }>({ what, ms: MEASURE_MS })).perSecond;
    return {
      ours: () => measure("ours"),
      ceiling: () => measure("ceiling"),
      whereTheTimeGoes: () =>
        "each batch crosses to the journal's thread and back: copying its rows and two wake-ups come on top of the inserts",
      end: () => helper.end(),
    };
  },
};
