import { assertNever } from "../model/decision.ts";
import type { RelationEvent } from "../model/relations/events.ts";
import { relationsOf } from "../model/relations/known.ts";
import type { RoomsPart } from "../model/state.ts";

/** The event in a sentence, from the state after it. */
export function describeRelation(state: RoomsPart, event: RelationEvent): string {
  const name = state.players.byId.get(event.player)?.name ?? event.player;
  const { friends, blocked } = relationsOf(state, event.player);
  switch (event.kind) {
    case "friends.set": {
      const of = [
        ...(event.friends ? [`${name} has ${friends.length} ${friends.length === 1 ? "friend" : "friends"}`] : []),
        ...(event.blocked ? [`${name} has blocked ${blocked.length}`] : []),
      ];
      return `The game's back end says that ${of.join(", and that ")}.`;
    }
    case "friends.hidden":
      return event.hidden
        ? `${name} does not want friends to see where it is.`
        : `${name} lets friends see where it is.`;
    case "blocks.added":
      return event.blocked.chatOnly
        ? `${name} hears nothing that ${event.blocked.name ?? "an account"} says.`
        : `${name} has blocked ${event.blocked.name ?? "an account"}.`;
    case "blocks.removed":
      return `${name} has blocked somebody no longer.`;
    default:
      return assertNever(event);
  }
}
