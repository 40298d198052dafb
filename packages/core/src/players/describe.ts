import { assertNever } from "../model/decision.ts";
import { attributesText } from "../model/players/attributes.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { RoomsPart } from "../model/state.ts";

/** The event in a sentence, from the state after it. */
export function describePlayer(state: RoomsPart, event: PlayerEvent, at: number): string | undefined {
  const name = (id: string) => state.players.byId.get(id)?.name ?? id;
  switch (event.kind) {
    case "player.connected":
      return `${event.name} connects with build ${event.build}, in ${event.lobby}${event.identity ? `, as ${event.identity.account}` : ""}.`;
    case "player.resumed":
      return `${name(event.player)} is connected again.`;
    case "player.identified":
      return `${name(event.player)} is account ${event.identity.account}.`;
    case "player.attributes-set":
      return `${name(event.player)} has ${attributesText(event.attributes, "no attributes of its own")}.`;
    case "player.lobby-switched":
      return event.by === "operator"
        ? `An operator moves ${name(event.player)} from lobby ${event.from} to ${event.lobby}.`
        : `${name(event.player)} goes from lobby ${event.from} to ${event.lobby}.`;
    case "player.invites-muted":
      return event.muted
        ? `${name(event.player)} mutes invitations${event.exceptFriends ? " of all but friends" : ""}.`
        : `${name(event.player)} hears of invitations.`;
    case "player.reported":
      return `${event.by.name} reports ${event.player.name} for ${event.reason}${event.text === undefined ? "" : `: ${event.text}`}.`;
    case "player.measured":
      return undefined;
    case "player.lost":
      return `${name(event.player)} lost the connection; the place is kept for ${Math.round((event.untilMs - at) / 1000)} s.`;
    case "player.left":
      return {
        left: `${event.name} says goodbye.`,
        lost: `${event.name} did not come back in time and is gone.`,
        kicked: `${event.name} was kicked by an operator.`,
      }[event.reason];
    default:
      return assertNever(event);
  }
}
