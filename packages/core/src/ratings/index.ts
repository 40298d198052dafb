import type { Exported } from "../model/capability.ts";
import type { RatingCommand } from "../model/ratings/commands.ts";
import type { RatingEvent } from "../model/ratings/events.ts";
import { newRatingsState } from "../model/ratings/state.ts";
import { applyRating, unwatch } from "./apply.ts";
import { decideRating } from "./decide.ts";
import { describeRating } from "./describe.ts";
import { expectedScore } from "./glicko.ts";
import { ratingViolations } from "./invariants.ts";
import { ratedSides, unrated } from "./sides.ts";
import { ratingPage } from "./view.ts";

/** How good accounts are, by the results of the matches of a queue. */
export const ratings = {
  names: ["rating"],
  newState: () => ({ ratings: newRatingsState() }),
  decide: decideRating,
  apply: applyRating,
  describe: describeRating,
  invariants: ratingViolations,
  /** What changes with an event of another capability. */
  also: { unwatch },
  views: { page: ratingPage },
  /** For whoever works ratings out anew. */
  method: { sides: ratedSides, unrated, expectedScore },
} satisfies Exported<RatingCommand, RatingEvent>;
