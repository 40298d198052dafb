import { assertNever } from "../model/decision.ts";
import type { RatingEvent } from "../model/ratings/events.ts";
import type { Rating, RatingsState } from "../model/ratings/state.ts";
import type { QueuesPart } from "../model/state.ts";

/** Accounts that are kept of each queue: of more, those that have not played for longest are forgotten. */
const RATED_MAX = 200_000;

export function applyRating({ ratings }: QueuesPart, event: RatingEvent): void {
  const { queue } = event;
  switch (event.kind) {
    case "rating.match-began":
      ratings.rooms.set(event.room, { queue, sides: event.sides });
      return;
    case "rating.match-void":
      ratings.rooms.delete(event.room);
      return;
    case "rating.changed":
      ratings.rooms.delete(event.room);
      for (const { account, after } of event.changes) keep(ratings, queue, account, after);
      return;
    case "rating.set":
      return keep(ratings, queue, event.account, event.rating);
    case "rating.season-began": {
      const { start, keep: share, minDeviation } = event;
      const known = ratings.byQueue.get(queue);
      for (const [account, one] of known ?? []) {
        const rating = Math.round((start + share * (one.rating - start)) * 100) / 100;
        known?.set(account, { ...one, rating, deviation: Math.max(one.deviation, minDeviation) });
      }
      return;
    }
    default:
      assertNever(event);
  }
}

function keep({ byQueue }: RatingsState, queue: string, account: string, rating: Rating): void {
  const known = byQueue.get(queue) ?? new Map<string, Rating>();
  byQueue.set(queue, known);
  // Whoever has played last stands last.
  known.delete(account);
  known.set(account, rating);
  const [oldest] = known.size > RATED_MAX ? known.keys() : [];
  if (oldest !== undefined) known.delete(oldest);
}

/** A room has closed: its match has no result any more. */
export const unwatch = ({ ratings }: QueuesPart, room: string): void => void ratings.rooms.delete(room);
