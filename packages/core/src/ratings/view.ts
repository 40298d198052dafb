import type { RatingList, RatingView } from "@yellow-harbor/protocol";
import type { RatingRules } from "../model/ratings/rules.ts";
import type { Rating } from "../model/ratings/state.ts";
import type { QueuesPart } from "../model/state.ts";
import { idle } from "./glicko.ts";

interface Asked {
  readonly queue: string;
  readonly rules: RatingRules;
  readonly account?: string | undefined;
  readonly limit: number;
  readonly atMs: number;
}

/** The ratings of a queue, the highest first; of one account where it is asked for. Takes one look at each, whoever is asked for. */
export function ratingPage({ ratings }: QueuesPart, { queue, rules, account, limit, atMs }: Asked): RatingList {
  const known = ratings.byQueue.get(queue) ?? new Map<string, Rating>();
  const asked = account === undefined ? highest(known, limit) : one(known, account);
  const views = asked.map(({ id, rating, rank }) => ratingView(id, rating, { rank, rules, atMs }));
  return { queue, attribute: rules.attribute, ratings: views, total: known.size };
}

interface Ranked {
  readonly id: string;
  readonly rating: Rating;
  readonly rank: number;
}

function highest(known: ReadonlyMap<string, Rating>, limit: number): Ranked[] {
  const top: { id: string; rating: Rating }[] = [];
  for (const [id, rating] of known) {
    if (top.length === limit && rating.rating <= (top.at(-1)?.rating.rating ?? 0)) continue;
    const at = top.findIndex((other) => other.rating.rating < rating.rating);
    top.splice(at < 0 ? top.length : at, 0, { id, rating });
    if (top.length > limit) top.pop();
  }
  return top.map((each, n) => ({ ...each, rank: n + 1 }));
}

function one(known: ReadonlyMap<string, Rating>, id: string): Ranked[] {
  const rating = known.get(id);
  if (rating === undefined) return [];
  let rank = 1;
  for (const other of known.values()) if (other.rating > rating.rating) rank += 1;
  return [{ id, rating, rank }];
}

function ratingView(
  account: string,
  rating: Rating,
  { rank, rules, atMs }: { readonly rank: number; readonly rules: RatingRules; readonly atMs: number },
): RatingView {
  const deviation = idle(rating, Math.max(0, atMs - rating.atMs) / rules.periodMs);
  return {
    account,
    rank,
    rating: rating.rating,
    deviation: Math.round(deviation * 100) / 100,
    volatility: rating.volatility,
    matches: rating.matches,
    atMs: rating.atMs,
  };
}
