import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";

export const directoryQuery: Row = {
  name: "directory-query",
  about:
    "a filtered page of 50 out of 5,000 rooms of a lobby, with the number of all that fit; ceiling: the same page and number by a prepared SQLite query over the same rows in memory",
  unit: "us",
  goal: 3,
  higherIsBetter: false,
  rounds: 9,
  warmUps: 2,
  prepare: async () => {
    const helper = startHelper("directory-query-process");
    const measure = (what: string) => async () => (await helper.ask<{ value: number }>({ what })).value;
    return { ours: measure("ours"), ceiling: measure("sqlite"), end: () => helper.end() };
  },
};
