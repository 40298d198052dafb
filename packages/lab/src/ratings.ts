import { expectedScore, type Rating, type RatingRules, ratedSides, unrated } from "@yellow-harbor/core";
import type { Recorded } from "./recorded.ts";

/** Ratings worked out anew from the results that a journal has. */
export interface Rerated {
  readonly ratings: ReadonlyMap<string, Rating>;
  readonly matches: number;
  /** How well ratings foretold the results: the mean log loss, 0.693 for a coin; null where nothing was foretold. */
  readonly loss: number | null;
  /** The same of the ratings as they were recorded. */
  readonly recordedLoss: number | null;
}

interface Player {
  readonly player: string;
  readonly account: string | null;
}

interface Changed {
  readonly sides: readonly { readonly players: readonly Player[]; readonly rank: number }[];
  readonly left: readonly string[];
  readonly changes: readonly { readonly account: string; readonly before: number }[];
}

/** Results count by the rules that are given, in the order of the journal; what operators set and seasons count as recorded. */
export function rerate(events: Iterable<Recorded>, queue: string, rules: RatingRules): Rerated {
  const ratings = new Map<string, Rating>();
  const losses: number[] = [];
  const recorded: number[] = [];
  let matches = 0;
  for (const { atMs, kind, event } of events) {
    if (event["queue"] !== queue) continue;
    if (kind === "rating.set") ratings.set(event["account"] as string, event["rating"] as Rating);
    else if (kind === "rating.season-began") season(ratings, event as unknown as Season);
    if (kind !== "rating.changed") continue;
    const changed = event as unknown as Changed;
    matches += 1;
    losses.push(...lossOf(changed, (account) => ratings.get(account ?? "") ?? unrated(rules)));
    const was = new Map(changed.changes.map(({ account, before }) => [account, before]));
    recorded.push(
      ...lossOf(changed, (account) => {
        const known = ratings.get(account ?? "") ?? unrated(rules);
        return { ...known, rating: was.get(account ?? "") ?? rules.start };
      }),
    );
    count(ratings, changed, rules, atMs);
  }
  return { ratings, matches, loss: meanOf(losses), recordedLoss: meanOf(recorded) };
}

function count(ratings: Map<string, Rating>, { sides, left }: Changed, rules: RatingRules, atMs: number): void {
  const before = sides.map(({ players, rank }) => ({
    rank,
    players: players.map(({ player, account }) => ({
      before: ratings.get(account ?? "") ?? unrated(rules),
      left: left.includes(player),
    })),
  }));
  const after = ratedSides(rules, before, atMs);
  for (const [n, { players }] of sides.entries()) {
    for (const [at, { account }] of players.entries()) {
      const rating = after[n]?.[at];
      if (account !== null && rating) ratings.set(account, rating);
    }
  }
}

interface Season {
  readonly start: number;
  readonly keep: number;
  readonly minDeviation: number;
}

function season(ratings: Map<string, Rating>, { start, keep, minDeviation }: Season): void {
  for (const [account, one] of ratings) {
    const deviation = Math.max(one.deviation, minDeviation);
    ratings.set(account, { ...one, rating: start + keep * (one.rating - start), deviation });
  }
}

type Knowing = (account: string | null) => { readonly rating: number; readonly deviation: number };

/** Of each pair of sides; sides of new accounts alone were foretold nothing. */
function lossOf({ sides }: Changed, knowing: Knowing): number[] {
  const known = sides.map(({ players, rank }) => {
    const each = players.map(({ account }) => knowing(account));
    const count = Math.max(1, each.length);
    const rating = each.reduce((sum, one) => sum + one.rating, 0) / count;
    return { rank, rating, deviation: Math.sqrt(each.reduce((sum, one) => sum + one.deviation ** 2, 0) / count) };
  });
  return known.flatMap((one, n) =>
    known.slice(n + 1).map((other) => {
      const expected = expectedScore(one.rating, other);
      const score = one.rank < other.rank ? 1 : one.rank === other.rank ? 0.5 : 0;
      return -(score * Math.log(expected) + (1 - score) * Math.log(1 - expected));
    }),
  );
}

const meanOf = (values: readonly number[]): number | null =>
  values.length === 0
    ? null
    : Math.round((values.reduce((sum, one) => sum + one, 0) / values.length) * 10_000) / 10_000;
