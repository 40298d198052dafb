import type { Found } from "./found.ts";
import type { Row } from "./waiting.ts";

/** With so few players all ways of making matches of them can be compared. */
export const PLAN_PLAYERS_MAX = 12;

interface Option {
  readonly bits: number;
  readonly players: number;
  readonly cost: number;
  readonly found: Found;
}

interface Plan {
  readonly players: number;
  readonly matches: readonly Found[];
  readonly cost: number;
}

type MatchesOf = (anchor: Row, among: (slot: number) => boolean) => readonly Found[];

const nothing: Plan = { players: 0, matches: [], cost: 0 };

/**
 * The best way to make matches of a few tickets. Whoever is oldest is in a match whenever one is possible; among the
 * ways to do so: most players, then fewest matches, then the lowest sum of scores.
 * @param rows the longest waiting first, at most {@link PLAN_PLAYERS_MAX}.
 */
export const bestPlan = (rows: readonly Row[], matchesOf: MatchesOf): readonly Found[] =>
  planOf(
    rows,
    optionsOf(rows, matchesOf, ({ score }) => score),
    (plans, without) => (plans.length === 0 ? without() : plans.reduce(better)),
  );

/** The way with the lowest cost of all its matches together, whoever is left out of it. Of two that cost the same the one with more players. */
export const cheapestPlan = (
  rows: readonly Row[],
  matchesOf: MatchesOf,
  costOf: (found: Found) => number,
): readonly Found[] =>
  planOf(rows, optionsOf(rows, matchesOf, costOf), (plans, without) => [...plans, without()].reduce(cheaper));

/** The matches that each ticket can be in with younger ones. */
function optionsOf(rows: readonly Row[], matchesOf: MatchesOf, costOf: (found: Found) => number): Option[][] {
  const bitOf = new Map(rows.map(({ slot }, n) => [slot, 1 << n]));
  return rows.map((anchor, n) =>
    matchesOf(anchor, (slot) => (bitOf.get(slot) ?? 0) > 1 << n).map((found) => ({
      bits: found.slots.reduce((sum, slot) => sum | (bitOf.get(slot) ?? 0), 0),
      players: found.packing.players,
      cost: costOf(found),
      found,
    })),
  );
}

/**
 * Exact, by remembering the best plan of each set of tickets that are left.
 * @param choose takes the plans in which the oldest that is left has a match, and what makes the best one without it.
 */
function planOf(
  rows: readonly Row[],
  options: readonly Option[][],
  choose: (plans: readonly Plan[], without: () => Plan) => Plan,
): readonly Found[] {
  const known = new Map<number, Plan>();
  const of = (left: number): Plan => {
    if (left === 0) return nothing;
    const remembered = known.get(left);
    if (remembered) return remembered;
    const oldest = 31 - Math.clz32(left & -left);
    const rest = left & ~(1 << oldest);
    const fitting = (options[oldest] ?? []).filter(({ bits }) => (bits & ~left) === 0);
    const plan = choose(
      fitting.map((option) => withMatch(option, of(left & ~option.bits))),
      () => of(rest),
    );
    known.set(left, plan);
    return plan;
  };
  return of(2 ** rows.length - 1).matches;
}

const withMatch = ({ players, cost, found }: Option, rest: Plan): Plan => ({
  players: players + rest.players,
  matches: [found, ...rest.matches],
  cost: cost + rest.cost,
});

function better(one: Plan, other: Plan): Plan {
  const order = other.players - one.players || one.matches.length - other.matches.length || one.cost - other.cost;
  return order <= 0 ? one : other;
}

const cheaper = (one: Plan, other: Plan): Plan =>
  (one.cost - other.cost || other.players - one.players) <= 0 ? one : other;
