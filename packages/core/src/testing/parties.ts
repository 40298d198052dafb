import fc from "fast-check";
import { expect } from "vitest";
import { valueAt } from "../matching/curve.ts";
import { type Entrant, entrantOf } from "../matching/entrant.ts";
import { type Match, sidesOf } from "../matching/match.ts";
import { MatchPool } from "../matching/pool.ts";
import type { Curve, MatchRules, SearchingParty } from "../matching/rules.ts";

export const NOW = 60_000;

const REGIONS = ["north-quay", "south-quay", "far-light"];

export const base: MatchRules = {
  sides: { count: 2, min: 3, max: 3, uneven: false },
  party: { max: 3, together: true },
  needs: [{ attribute: "build", must: "equal" }],
  closeness: [
    {
      attribute: "skill",
      gap: [
        [0, 50],
        [30, 200],
        [60, 400],
      ],
      party: "mean",
      weight: 1,
    },
  ],
  latency: {
    regions: REGIONS,
    ceilingMs: [
      [0, 60],
      [30, 120],
    ],
  },
  lineUp: null,
  fewer: [],
  choose: { by: "oldest" },
  prefer: [],
  priority: null,
};

export const allowance: Curve = [
  [0, 0],
  [40, 200],
];

/** What tickets of the tests had better have in common. */
export const preferring: MatchRules["prefer"] = [
  { attribute: "levels", must: "overlap", weight: 60 },
  { attribute: "rank", must: "equal", weight: 30 },
];

export const variants: readonly MatchRules[] = [
  base,
  { ...base, latency: null, closeness: [], needs: [] },
  { ...base, sides: { count: 2, min: 1, max: 4, uneven: true }, fewer: [] },
  { ...base, sides: { count: 3, min: 2, max: 2, uneven: false }, party: { max: 2, together: true } },
  { ...base, party: { max: 4, together: false }, fewer: [{ afterMs: 20_000, min: 2 }] },
  {
    ...base,
    needs: [...base.needs, { attribute: "levels", must: "overlap" }, { attribute: "rank", from: 1, to: 5 }],
    closeness: [
      ...base.closeness,
      {
        attribute: "reached",
        gap: [
          [0, 2],
          [40, 9],
        ],
        party: "highest",
        weight: 20,
      },
    ],
  },
  { ...base, lineUp: { attribute: "roles", perSide: [{ role: "mason", count: 1 }] } },
  { ...base, choose: { by: "price", allowance }, prefer: preferring },
  {
    ...base,
    sides: { count: 2, min: 2, max: 2, uneven: false },
    party: { max: 2, together: true },
    choose: { by: "price", allowance },
  },
];

const player = fc.record({
  skill: fc.integer({ min: 1_000, max: 1_600 }),
  reached: fc.integer({ min: 1, max: 12 }),
  roles: fc.subarray(["mason", "tidekeeper"], { minLength: 1 }),
  latencies: fc.tuple(
    fc.integer({ min: 5, max: 130 }),
    fc.integer({ min: 5, max: 130 }),
    fc.integer({ min: 5, max: 90 }),
  ),
});

export const party = fc.record({
  at: fc.integer({ min: 0, max: 60_000 }),
  players: fc.array(player, { minLength: 1, maxLength: 3 }),
  build: fc.constantFrom("b1", "b1", "b2"),
  levels: fc.subarray(["brine-gate", "copper-sound", "gull-flats"], { minLength: 1 }),
  rank: fc.integer({ min: 1, max: 5 }),
  wants: fc.option(fc.constantFrom(1, 3), { freq: 6, nil: undefined }),
});

export const partiesOf = (
  raws: readonly (typeof party extends fc.Arbitrary<infer T> ? T : never)[],
): SearchingParty[] =>
  raws.map(({ at, players, build, levels, rank, wants }, n) => ({
    ticket: `t${n}`,
    sinceMs: at,
    attributes: { build, levels, rank },
    needs: wants === undefined ? [] : [{ attribute: "rank", from: wants }],
    players: players.map(({ skill, reached, roles, latencies }, k) => ({
      id: `p${n}-${k}`,
      attributes: { skill, reached, roles },
      latencyMs: Object.fromEntries(REGIONS.map((name, r) => [name, latencies[r] ?? 0])),
    })),
  }));

export function poolOf(rules: MatchRules, parties: readonly SearchingParty[]): MatchPool {
  const pool = new MatchPool(rules);
  for (const one of parties) {
    const entered = entrantOf(rules, one);
    if ("entrant" in entered) pool.add(entered.entrant);
  }
  return pool;
}

/** Every rule, held against the tickets as they were handed in: nothing of what the matcher worked out is used. */
export function check(rules: MatchRules, match: Match, nowMs: number): void {
  const parties = match.entrants.map((entrant) => entrant.party);
  const sides = sidesOf(match);
  const players = parties.flatMap((one) => one.players.map(({ id }) => id));
  expect(sides.flat().sort()).toEqual(players.sort());
  const waited = Math.max(...parties.map((one) => nowMs - one.sinceMs));
  const fewest = rules.fewer.filter(({ afterMs }) => waited >= afterMs).map((step) => step.min);
  const min = Math.min(rules.sides.min, ...fewest);
  expect(sides).toHaveLength(rules.sides.count);
  for (const side of sides) {
    expect(side.length).toBeGreaterThanOrEqual(min);
    expect(side.length).toBeLessThanOrEqual(rules.sides.max);
    if (!rules.sides.uneven) expect(side.length).toBe(sides[0]?.length);
  }
  if (rules.party.together) {
    for (const one of parties) {
      expect(new Set(one.players.map(({ id }) => sides.findIndex((side) => side.includes(id)))).size).toBe(1);
    }
  }
  checkTogether(rules, parties, match.region, nowMs);
  if (rules.choose.by === "price") {
    const seconds = parties.reduce((sum, { sinceMs }) => sum + nowMs - sinceMs, 0) / parties.length / 1_000;
    expect(match.score).toBeLessThanOrEqual(valueAt(rules.choose.allowance, seconds) + 1e-9);
  }
  for (const { role, count } of rules.lineUp?.perSide ?? []) {
    const rolesOf = (id: string) =>
      parties.flatMap((one) => one.players).find((each) => each.id === id)?.attributes?.["roles"] as string[];
    for (const side of sides)
      expect(side.filter((id) => rolesOf(id).includes(role)).length).toBeGreaterThanOrEqual(count);
  }
}

/** The rules that hold between tickets, whichever sides they are on. */
export function checkTogether(
  rules: MatchRules,
  parties: readonly SearchingParty[],
  region: string | null,
  nowMs: number,
): void {
  const seconds = ({ sinceMs }: SearchingParty) => (nowMs - sinceMs) / 1_000;
  for (const { attribute, gap, party: by } of rules.closeness) {
    const numberOf = (one: SearchingParty) => {
      const numbers = one.players.map((each) => each.attributes?.[attribute] as number);
      return by === "mean" ? numbers.reduce((sum, number) => sum + number, 0) / numbers.length : Math.max(...numbers);
    };
    for (const one of parties) {
      for (const other of parties) {
        expect(Math.abs(numberOf(one) - numberOf(other))).toBeLessThanOrEqual(valueAt(gap, seconds(one)) + 1e-9);
      }
    }
  }
  if (rules.latency) {
    const { ceilingMs } = rules.latency;
    for (const one of parties) {
      const ceiling = valueAt(ceilingMs, seconds(one));
      for (const each of one.players) expect(each.latencyMs?.[region ?? ""]).toBeLessThanOrEqual(ceiling + 1e-9);
    }
  }
  for (const need of rules.needs) {
    if (!("must" in need)) continue;
    const values = parties.map((one) => one.attributes?.[need.attribute]);
    if (need.must === "equal") expect(new Set(values).size).toBe(1);
    else {
      const [first = [], ...others] = values as string[][];
      expect(first.some((entry) => others.every((list) => list.includes(entry)))).toBe(true);
    }
  }
  for (const one of parties) {
    for (const need of one.needs ?? []) {
      if (!("from" in need)) continue;
      for (const other of parties) {
        if (other !== one) expect(other.attributes?.[need.attribute]).toBeGreaterThanOrEqual(need.from ?? 0);
      }
    }
  }
}

interface Wanted {
  readonly withOne?: Entrant;
  readonly nowMs?: number;
}

/** Scores of every match that can be made of tickets, with one of them when it is given: by trying all sets. */
export const everyMatch = (rules: MatchRules, entrants: readonly Entrant[], wanted: Wanted = {}): number[] =>
  everySet(rules, entrants, wanted).map((set) => scoreOf(rules, set));

/** Every set of tickets that a match can be made of. */
export function everySet(
  rules: MatchRules,
  entrants: readonly Entrant[],
  { withOne, nowMs = NOW }: Wanted = {},
): (readonly Entrant[])[] {
  const sets: (readonly Entrant[])[] = [];
  const players = rules.sides.count * rules.sides.max;
  const extend = (set: readonly Entrant[], from: number, size: number) => {
    if (size === players) {
      if (!withOne || set.includes(withOne)) if (stands(rules, set, nowMs)) sets.push(set);
      return;
    }
    for (let n = from; n < entrants.length; n++) {
      const next = entrants[n] as Entrant;
      if (size + next.players.length <= players) extend([...set, next], n + 1, size + next.players.length);
    }
  };
  extend([], 0, 0);
  return sets;
}

export const scoreOf = ({ prefer }: MatchRules, set: readonly Entrant[]) => {
  const numbers = set.map((one) => one.numbers[0] ?? 0);
  const points = prefer.map(({ attribute, must, weight }) => {
    const values = set.map(({ party: { attributes } }) => attributes?.[attribute]);
    const isShared =
      must === "equal"
        ? new Set(values).size === 1
        : (values[0] as string[]).some((entry) => values.every((list) => (list as string[]).includes(entry)));
    return isShared ? 0 : weight;
  });
  return Math.max(...numbers) - Math.min(...numbers) + points.reduce((sum, each) => sum + each, 0);
};

function stands(rules: MatchRules, set: readonly Entrant[], nowMs: number): boolean {
  if (new Set(set.map((one) => one.key)).size > 1) return false;
  const sizes = set.map((one) => one.players.length);
  // Two sides of two: only a pair and two single players, two pairs, or four single players can be put whole.
  if (Math.max(...sizes) > rules.sides.max) return false;
  const [gap] = rules.closeness.map((closeness) => closeness.gap);
  const spans = set.every((one) =>
    set.every(
      (other) =>
        Math.abs((one.numbers[0] ?? 0) - (other.numbers[0] ?? 0)) <=
        valueAt(gap ?? [[0, 0]], (nowMs - one.party.sinceMs) / 1_000),
    ),
  );
  const regions =
    rules.latency === null ||
    rules.latency.regions.some((_, r) =>
      set.every(
        (one) =>
          (one.latencies[r] ?? 0) <= valueAt(rules.latency?.ceilingMs ?? [[0, 0]], (nowMs - one.party.sinceMs) / 1_000),
      ),
    );
  const wants = set.every((one) =>
    (one.party.needs ?? []).every(
      (need) =>
        !("from" in need) ||
        set.every((other) => other === one || ((other.party.attributes?.["rank"] as number) ?? 0) >= (need.from ?? 0)),
    ),
  );
  return spans && regions && wants;
}
