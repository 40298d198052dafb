import { startHelper } from "../processes/child.ts";
import type { Prepared, Row } from "../row.ts";

const prepare = (what: "allocate" | "launches" | "place", note: string) => async (): Promise<Prepared> => {
  const helper = startHelper("pools-process");
  const measure = (of: "ours" | "ceiling") => async () => (await helper.ask<{ value: number }>({ what, of })).value;
  return { ours: measure("ours"), ceiling: measure("ceiling"), whereTheTimeGoes: () => note, end: () => helper.end() };
};

export const allocate: Row = {
  name: "allocate",
  about:
    "an open instance out of 1,000 given to a room, decided and durable; ceiling: its rows by bare better-sqlite3, a transaction each, WAL, FULL",
  unit: "us",
  goal: 6,
  higherIsBetter: false,
  rounds: 7,
  warmUps: 1,
  prepare: prepare(
    "allocate",
    "looking through 1,000 instances for the best, and the way to the journal's thread and back",
  ),
};

export const launches: Row = {
  name: "launches",
  about:
    "instances launched, each with its port, machine and version, durable 100 at once; ceiling: their rows by bare better-sqlite3 in the same transactions",
  unit: "launches/s",
  goal: 0.1,
  higherIsBetter: true,
  rounds: 7,
  warmUps: 1,
  prepare: prepare("launches", "finding a free port among those that are taken, and how full each machine is"),
};

export const place: Row = {
  name: "place",
  about:
    "an instance launched among 10,000 on 1,000 machines: one chosen by region, CPUs, memory and places, with its reason, port and events; ceiling: a linear scan of the instances in bare code that chooses a machine",
  unit: "us",
  goal: 1,
  higherIsBetter: false,
  rounds: 7,
  warmUps: 1,
  prepare: prepare("place", "a look at each of the 1,000 machines, and what applying the launch costs"),
};
