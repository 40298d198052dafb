import type { Found } from "./search.ts";
import type { Row } from "./waiting.ts";

/** With so few players all ways of making matches of them can be compared. */
export const PLAN_PLAYERS_MAX = 12;

interface Option {
  readonly bits: number;
  readonly players: number;
  readonly found: Found;
}

interface Plan {
  readonly players: number;
  readonly matches: readonly Found[];
  readonly score: number;
}

const nothing: Plan = { players: 0, matches: [], score: 0 };

/**
 * The best way to make matches of a few tickets. Whoever is oldest is in a match whenever one is possible; among the
 * ways to do so: most players, then fewest matches, then the lowest sum of scores. Exact, by remembering the best plan
 * of each set of tickets that are left.
 * @param rows the longest waiting first, at most {@link PLAN_PLAYERS_MAX}.
 */
export function bestPlan(
  rows: readonly Row[],
  matchesOf: (anchor: Row, among: (slot: number) => boolean) => readonly Found[],
): readonly Found[] {
  const bitOf = new Map(rows.map(({ slot }, n) => [slot, 1 << n]));
  const options = rows.map((anchor, n) => {
    const found = matchesOf(anchor, (slot) => (bitOf.get(slot) ?? 0) > 1 << n);
    return found.map((one): Option => {
      const bits = one.slots.reduce((sum, slot) => sum | (bitOf.get(slot) ?? 0), 0);
      return { bits, players: one.packing.players, found: one };
    });
  });
  const known = new Map<number, Plan>();
  const planOf = (left: number): Plan => {
    if (left === 0) return nothing;
    const remembered = known.get(left);
    if (remembered) return remembered;
    const oldest = 31 - Math.clz32(left & -left);
    const rest = left & ~(1 << oldest);
    const fitting = (options[oldest] ?? []).filter(({ bits }) => (bits & ~left) === 0);
    const plans = fitting.map((option) => withMatch(option, planOf(left & ~option.bits)));
    const plan = plans.length === 0 ? planOf(rest) : plans.reduce(better);
    known.set(left, plan);
    return plan;
  };
  return planOf(2 ** rows.length - 1).matches;
}

const withMatch = ({ players, found }: Option, rest: Plan): Plan => ({
  players: players + rest.players,
  matches: [found, ...rest.matches],
  score: found.score + rest.score,
});

function better(one: Plan, other: Plan): Plan {
  const order = other.players - one.players || one.matches.length - other.matches.length || one.score - other.score;
  return order <= 0 ? one : other;
}
