import { startHelper } from "../processes/child.ts";
import type { Prepared, Row } from "../row.ts";

const MANY = 100_000;
const FEW = 10_000;

const prepare = (ours: object, ceiling: object, note?: string) => async (): Promise<Prepared> => {
  const helper = startHelper("match-process", [], ["--expose-gc"]);
  const measure = (question: object) => async () => (await helper.ask<{ value: number }>(question)).value;
  return {
    ours: measure(ours),
    ceiling: measure(ceiling),
    ...(note !== undefined && { whereTheTimeGoes: () => note }),
    end: () => helper.end(),
  };
};

const rules = "3 against 3, skill with loosening, three regions, parties of 1 to 3";

export const matchPass: Row = {
  name: "match-pass",
  about: `one pass over 100,000 waiting tickets (${rules}) that matches nearly all; ceiling: sorting the same 100,000 objects by their skill`,
  unit: "ms",
  goal: 2,
  higherIsBetter: false,
  rounds: 9,
  warmUps: 3,
  prepare: prepare(
    { what: "pass", tickets: MANY },
    { what: "sort", tickets: MANY },
    "some 26,000 searches of about 6 to 10 us: gathering the nearest candidates, trying sets of them, putting sides",
  ),
};

export const matchGrowth: Row = {
  name: "match-growth",
  about: "the same pass over 100,000 tickets; ceiling: over 10,000",
  unit: "ms",
  goal: 12,
  higherIsBetter: false,
  rounds: 9,
  warmUps: 3,
  prepare: prepare({ what: "pass", tickets: MANY }, { what: "pass", tickets: FEW }),
};

export const matchStep: Row = {
  name: "match-step",
  about: "a pass with 1,000 new tickets on 100,000 that wait; ceiling: a full pass over the same",
  unit: "ms",
  goal: 0.1,
  higherIsBetter: false,
  rounds: 9,
  warmUps: 3,
  prepare: prepare({ what: "step", tickets: MANY }, { what: "full-step", tickets: MANY }),
};

export const slice: Row = {
  name: "slice",
  about:
    "the longest slice of the matcher on 1,000 tickets, four in five of them pairs for three against three, over a minute; ceiling: 10 ms, which nothing on the event loop is to last longer than",
  unit: "ms",
  goal: 1,
  higherIsBetter: false,
  rounds: 5,
  warmUps: 2,
  prepare: prepare({ what: "slice" }, { what: "slice-goal" }),
};

export const matchQuality: Row = {
  name: "match-quality",
  about:
    "mean spread of skill over 400 pools of up to 12 players; ceiling: the best by trying every way to make matches of them",
  unit: "points",
  goal: 1.03,
  higherIsBetter: false,
  rounds: 1,
  prepare: prepare({ what: "quality" }, { what: "exact-quality" }),
};

const byPrice = (players: number, goal: number): Row => ({
  name: `match-price-${players}`,
  about: `sum of the spreads of skill in pools of up to ${players} players, of a queue that chooses by price, and 400 points for each match that could have been made as well; ceiling: the best of all ways, by trying them`,
  unit: "points",
  goal,
  higherIsBetter: false,
  rounds: 1,
  prepare: prepare({ what: "by-price", players }, { what: "lowest", players }),
});

export const matchPrice12 = byPrice(12, 1.03);
export const matchPrice18 = byPrice(18, 1.1);
