import type { RatingRules } from "../model/ratings/rules.ts";
import type { Rating } from "../model/ratings/state.ts";
import { type Known, type Opponent, rated } from "./glicko.ts";

/** A player of a match, with what is known of it before. */
export interface Before extends Known {
  /** Of its last match; null where it has had none. */
  readonly atMs: number | null;
  readonly matches: number;
}

export interface Side {
  readonly players: readonly { readonly before: Before; readonly left: boolean }[];
  /** 1 for the best; sides of one rank have drawn. */
  readonly rank: number;
}

export const unrated = ({ start, deviation, volatility }: RatingRules): Before => ({
  rating: start,
  deviation,
  volatility,
  atMs: null,
  matches: 0,
});

/**
 * Ratings after a match, side by side. The paper rates one against one: here a side plays as one of the mean rating of its
 * players, and with the root mean square of their deviations, against every other side; what comes of it changes each
 * of its players by its own deviation.
 */
export function ratedSides(rules: RatingRules, sides: readonly Side[], atMs: number): Rating[][] {
  const composites = sides.map(compositeOf);
  return sides.map((side, n) =>
    side.players.map(({ before, left }): Rating => {
      const isLost = left && rules.leavers === "lose";
      const opponents = composites.flatMap((other, at): Opponent[] => {
        if (at === n) return [];
        const rank = sides[at]?.rank ?? 1;
        return [{ ...other, score: isLost ? 0 : rank > side.rank ? 1 : rank === side.rank ? 0.5 : 0 }];
      });
      const periods = before.atMs === null ? 0 : Math.max(0, atMs - before.atMs) / rules.periodMs;
      const after = rated(before, opponents, { tau: rules.tau, periods }, composites[n]?.rating);
      return { ...roundedOf(after), matches: before.matches + 1, atMs };
    }),
  );
}

function compositeOf({ players }: Side): { readonly rating: number; readonly deviation: number } {
  const count = Math.max(1, players.length);
  const rating = players.reduce((sum, { before }) => sum + before.rating, 0) / count;
  const square = players.reduce((sum, { before }) => sum + before.deviation ** 2, 0) / count;
  return { rating, deviation: Math.sqrt(square) };
}

/** To what anybody can tell apart: what is kept is what was reckoned with. */
const roundedOf = ({ rating, deviation, volatility }: Known): Known => ({
  rating: round(rating, 100),
  deviation: round(deviation, 100),
  volatility: round(volatility, 1e6),
});

const round = (value: number, parts: number) => Math.round(value * parts) / parts;
