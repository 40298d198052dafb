import type { RatingsSeen } from "../model/seen.ts";
import type { HarborState } from "../model/state.ts";

/** What queues see of ratings. */
export const seenOfRatings = (all: () => Pick<HarborState, "ratings">): RatingsSeen => ({
  ratingOf: (queue, account) => all().ratings.byQueue.get(queue)?.get(account)?.rating,
});
