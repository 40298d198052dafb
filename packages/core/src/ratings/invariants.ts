import type { QueuesPart } from "../model/state.ts";

/** Ratings are numbers, and only rooms that are open can still have a result that counts. */
export function ratingViolations({ ratings, seen }: QueuesPart): string[] {
  const odd = [...ratings.byQueue].flatMap(([queue, known]) =>
    [...known]
      .filter(
        ([, { rating, deviation, volatility }]) =>
          !Number.isFinite(rating) || !(deviation > 0) || !(volatility > 0) || !Number.isFinite(deviation + volatility),
      )
      .map(([account]) => `the rating of ${account} in ${queue} is no number`),
  );
  const gone = [...ratings.rooms.keys()].filter((room) => seen.rooms.room(room) === undefined);
  return [...odd, ...gone.map((room) => `the result of room ${room} is to count, which is not there`)];
}
