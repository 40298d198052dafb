// The best matches of a few tickets by trying every way: slow, plain, and written apart from the matcher.
import { type Entrant, entrantOf, type MatchRules, type QueueRules } from "@yellow-harbor/core";
import { generate, TrafficPlan } from "@yellow-harbor/lab";

/** Pools of up to so many players. */
export function poolsOfFew(
  queue: QueueRules,
  seed: number,
  { many, players: most }: { readonly many: number; readonly players: number },
): Entrant[][] {
  const plan = TrafficPlan.parse({
    minutes: 0.5,
    perMinute: [[0, 60]],
    numbers: { mean: 1_500, deviation: 120, withinParty: 40 },
    cancels: { share: 0 },
  });
  return Array.from({ length: many }, (_, n) => {
    const pool: Entrant[] = [];
    let players = 0;
    for (const line of generate(queue, plan, seed + n)) {
      const entered = entrantOf(queue.match, { ...line, sinceMs: Math.round(line.at * 1_000) });
      if (!("entrant" in entered) || players + line.players.length > most) continue;
      players += line.players.length;
      pool.push(entered.entrant);
    }
    return pool;
  });
}

interface Plan {
  readonly players: number;
  readonly spreads: readonly number[];
}

/**
 * Spreads of the best matches: the oldest who can be in one is; then most players, then the lowest sum. Every set of
 * tickets is tried, with no bound and nothing remembered.
 */
export function exactSpread(rules: MatchRules, entrants: readonly Entrant[], nowMs: number): readonly number[] {
  const byAge = entrants.toSorted((a, b) => a.party.sinceMs - b.party.sinceMs);
  return best(rules, byAge, nowMs).spreads;
}

function best(rules: MatchRules, left: readonly Entrant[], nowMs: number): Plan {
  const [oldest, ...others] = left;
  if (oldest === undefined) return { players: 0, spreads: [] };
  const plans = setsWith(oldest, others, rules.sides.count * rules.sides.max)
    .filter((set) => stands(rules, set, nowMs))
    .map((set) => {
      const rest = best(
        rules,
        others.filter((one) => !set.includes(one)),
        nowMs,
      );
      const size = set.reduce((sum, one) => sum + one.players.length, 0);
      return { players: size + rest.players, spreads: [spreadOf(set), ...rest.spreads] };
    });
  if (plans.length === 0) return best(rules, others, nowMs);
  return plans.reduce((one, other) => (isBetter(other, one) ? other : one));
}

/** Spreads of the best matches of all: most players, then the lowest sum, whoever is left out. What is left of a set is remembered. */
export function lowestSpread(rules: MatchRules, entrants: readonly Entrant[], nowMs: number): readonly number[] {
  const bitOf = new Map(entrants.map((one, n) => [one, 1 << n]));
  const options = entrants.map((first, n) =>
    setsWith(first, entrants.slice(n + 1), rules.sides.count * rules.sides.max)
      .filter((set) => stands(rules, set, nowMs))
      .map((set) => ({
        bits: set.reduce((all, one) => all | (bitOf.get(one) ?? 0), 0),
        size: set.reduce((all, one) => all + one.players.length, 0),
        spread: spreadOf(set),
      })),
  );
  const known = new Map<number, Plan>();
  const of = (left: number): Plan => {
    if (left === 0) return { players: 0, spreads: [] };
    const remembered = known.get(left);
    if (remembered) return remembered;
    const first = 31 - Math.clz32(left & -left);
    let plan = of(left & ~(1 << first));
    for (const { bits, size, spread } of options[first] ?? []) {
      if ((bits & ~left) !== 0) continue;
      const rest = of(left & ~bits);
      const other = { players: size + rest.players, spreads: [spread, ...rest.spreads] };
      if (isBetter(other, plan)) plan = other;
    }
    known.set(left, plan);
    return plan;
  };
  return of(2 ** entrants.length - 1).spreads;
}

const sum = (numbers: readonly number[]) => numbers.reduce((total, number) => total + number, 0);

const isBetter = (one: Plan, other: Plan) =>
  one.players > other.players || (one.players === other.players && sum(one.spreads) < sum(other.spreads));

function setsWith(first: Entrant, others: readonly Entrant[], players: number): Entrant[][] {
  const sets: Entrant[][] = [];
  const extend = (set: readonly Entrant[], from: number, size: number) => {
    if (size === players) sets.push([...set]);
    for (let n = from; n < others.length; n++) {
      const next = others[n] as Entrant;
      if (size + next.players.length <= players) extend([...set, next], n + 1, size + next.players.length);
    }
  };
  extend([first], 0, first.players.length);
  return sets;
}

function stands({ sides, closeness, latency }: MatchRules, set: readonly Entrant[], nowMs: number): boolean {
  const seconds = (one: Entrant) => (nowMs - one.party.sinceMs) / 1_000;
  const gapOf = closeness[0]?.gap ?? [];
  const areClose = set.every((one) =>
    set.every((other) => Math.abs((one.numbers[0] ?? 0) - (other.numbers[0] ?? 0)) <= along(gapOf, seconds(one))),
  );
  const meet = latency?.regions.some((_, n) =>
    set.every((one) => (one.latencies[n] ?? Number.POSITIVE_INFINITY) <= along(latency.ceilingMs, seconds(one))),
  );
  return (
    areClose &&
    meet !== false &&
    fill(
      set.map((one) => one.players.length).sort((a, b) => b - a),
      sides.max,
    )
  );
}

/** Whether sizes can be put into two sides of exactly so many. */
function fill(sizes: readonly number[], max: number, one = 0, other = 0): boolean {
  const [size, ...rest] = sizes;
  if (size === undefined) return one === max && other === max;
  const intoOne = one + size <= max && fill(rest, max, one + size, other);
  return intoOne || (other + size <= max && fill(rest, max, one, other + size));
}

function along(points: readonly (readonly [number, number])[], seconds: number): number {
  const after = points.findIndex(([at]) => at > seconds);
  const [from, to] = [points[after - 1], points[after]];
  if (from === undefined || to === undefined) return (after === -1 ? points.at(-1) : points[0])?.[1] ?? 0;
  return from[1] + ((to[1] - from[1]) * (seconds - from[0])) / (to[0] - from[0]);
}

function spreadOf(set: readonly Entrant[]): number {
  const numbers = set.map((one) => one.numbers[0] ?? 0);
  return Math.max(...numbers) - Math.min(...numbers);
}
