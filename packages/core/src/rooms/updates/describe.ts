import { addressText, type ReservedFor } from "@yellow-harbor/protocol";
import type { Destination } from "../../model/destination.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Reservation } from "../../model/rooms/reservations.ts";
import type { RoomsPart } from "../../model/state.ts";
import type { WatchingEvent } from "../watching/spectators.ts";
import { describeMember } from "./describe-member.ts";

/** The event in a sentence, from the state after it. */
export function describeRoom(state: RoomsPart, event: RoomEvent): string | undefined {
  const room = state.rooms.byId.get(event.room);
  const code = room?.code ?? ("code" in event ? event.code : event.room);
  const name = (id: string) => room?.members.get(id)?.name ?? id;
  const who = (id: string | undefined) => (id === undefined ? "An operator" : name(id));
  switch (event.kind) {
    case "room.opened":
      return `${event.hostName} opens room ${code} for ${event.capacity} and is its host.`;
    case "room.set-up":
      return `An operator opens room ${code} for ${event.capacity}; nobody is in it yet.`;
    case "room.place-reserved":
      return reservedText(code, event);
    case "room.reservation-ended":
      return `No place of room ${code} is kept for ${whoText(event.for)} any more: ${endText[event.cause]}.`;
    case "room.settings-changed":
      return `${who(event.by)} changes room ${code}: ${changes(event)}.`;
    case "room.board-set":
      return `${name(event.by)} sets ${event.key} on the board of room ${code}.`;
    case "room.board-removed":
      return `${name(event.by)} removes ${event.key} from the board of room ${code}.`;
    case "room.host-changed":
      return `${name(event.host)} is host of room ${code} now${handedBy(event, name)}.`;
    case "room.banned":
      return `${event.player} is banned from room ${code}${event.why ? `: ${event.why}` : ""}.`;
    case "room.unbanned":
      return `${event.player} may come into room ${code} again.`;
    case "room.turn-passed":
      return `It is ${name(event.holder)}'s turn in room ${code}${{ given: "", gone: "; the one before is gone", late: "; the one before took too long" }[event.cause]}.`;
    case "room.turns-ended":
      return `The turn is out of room ${code}.`;
    case "room.level-picked":
      return `${who(event.by)} picks level ${event.level.id} for room ${code}.`;
    case "room.counting":
      return `Room ${code} counts down.`;
    case "room.count-stopped":
      return `Room ${code} stops counting: ${event.why}.`;
    case "room.started":
      return `Room ${code} starts ${event.moves === undefined ? "" : "again "}for ${event.request.level.id} with ${event.request.members.length} players.`;
    case "room.playing":
      return `Room ${code} plays ${placeText(event.destination, name)}.`;
    case "room.result-set": {
      const ranks = event.standings.map((row) => `${row.rank}. ${name(row.player)} (${row.score})`).join(", ");
      return `Room ${code} has its result: ${ranks || "no standings"}${event.note ? `; ${event.note}` : ""}. ${event.untilMs === undefined ? "It gathers again." : "It is shown."}`;
    }
    case "room.gathered":
      return `Room ${code} gathers again${event.by ? `, by ${name(event.by)}` : ""}.`;
    case "room.returned":
      return `Room ${code} is back to ${room?.stage.phase ?? "gathering"}${event.void ? ", its run void" : ""}: ${event.detail}`;
    case "room.echo-told":
      return event.echo === null
        ? `${name(event.player)} tells nobody where it is any more.`
        : `${name(event.player)} tells those who look for a room that its world answers at ${event.echo}.`;
    case "room.idle-asked":
      return `${name(event.player)} is asked whether it is still in room ${code}.`;
    case "room.member-active":
      return `${name(event.player)} is still in room ${code}.`;
    case "room.watched":
    case "room.unwatched":
    case "room.spectator-changed":
      return describeWatching(code, event, name);
    case "room.closed":
      return `Room ${code} is empty and closes.`;
    default:
      return describeMember(room, code, event);
  }
}

const whoText = (one: ReservedFor) => ("account" in one ? one.account : one.player);
function reservedText(code: string, { for: who, name, by }: Reservation): string {
  const whom = name ?? whoText(who);
  return by ? `${by.name} invites ${whom} into room ${code}.` : `A place of room ${code} is kept for ${whom}.`;
}

const endText = {
  expired: "its time is over",
  cancelled: "it was taken back",
  declined: "it was declined",
  closed: "the room closes",
} as const;

function placeText(destination: Destination, name: (id: string) => string): string {
  switch (destination.by) {
    case "relayed":
      return "through the service, which relays";
    case "dedicated":
      return `on ${destination.instance} at ${addressText(destination.address)}`;
    case "player-hosted":
      return `in the world of ${name(destination.player)}`;
  }
}

type Of<K extends RoomEvent["kind"]> = Extract<RoomEvent, { kind: K }>;

function handedBy({ by, cause }: Of<"room.host-changed">, name: (id: string) => string): string {
  if (by !== undefined) return `, by ${name(by)}`;
  return cause === "lost" ? "; the one before was lost for too long" : ", by an operator";
}

function changes({ name, capacity, visibility, password, settings = {} }: Of<"room.settings-changed">): string {
  const free = Object.entries(settings).map(([key, value]) => (value === null ? `no ${key}` : `${key} ${value}`));
  return [
    ...[name && `name ${name}`, capacity && `capacity ${capacity}`, visibility && `visibility ${visibility}`],
    password === null ? "no password" : password && "a password",
    ...free,
  ]
    .filter(Boolean)
    .join(", ");
}

function describeWatching(code: string, event: WatchingEvent, name: (id: string) => string): string {
  switch (event.kind) {
    case "room.watched":
      return `${event.name} looks on in room ${code}.`;
    case "room.unwatched": {
      const because = event.why ? `${event.reason}: ${event.why}` : event.reason;
      return `${event.name} looks on in room ${code} no longer (${because}).`;
    }
    case "room.spectator-changed":
      return event.presence === "away"
        ? `${name(event.player)}, who looks on, lost the connection.`
        : `${name(event.player)} looks on again.`;
  }
}
