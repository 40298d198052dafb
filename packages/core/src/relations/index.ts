import type { Exported } from "../model/capability.ts";
import type { RelationCommand } from "../model/relations/commands.ts";
import type { RelationEvent } from "../model/relations/events.ts";
import { newRelationsState } from "../model/relations/state.ts";
import { applyRelation, forgetRelations } from "./apply.ts";
import { decideRelation, setEvents } from "./decide.ts";
import { describeRelation } from "./describe.ts";
import { relationViolations } from "./invariants.ts";
import { blockedViews, friendsChange, friendsOf, relationsView } from "./view.ts";

/** Whom a player knows, by the word of the game's back end, and of whom it wants to hear nothing. */
export const relations = {
  names: ["friends", "blocks"],
  newState: () => ({ relations: newRelationsState() }),
  decide: decideRelation,
  apply: applyRelation,
  describe: describeRelation,
  invariants: relationViolations,
  /** What an account token says of them, as events beside the hello's own. */
  told: setEvents,
  /** What changes with an event of another capability. */
  also: { forget: forgetRelations },
  views: { friends: friendsOf, relations: relationsView, blocked: blockedViews, change: friendsChange },
} satisfies Exported<RelationCommand, RelationEvent>;
