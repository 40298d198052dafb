import type { PlayerAttributes, PlayerId, PlayerReply } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { roomOf } from "../../model/find-room.ts";
import { attributesOf } from "../../model/players/attributes.ts";
import type { Player } from "../../model/players/state.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { reservationOf } from "../../model/rooms/reservations.ts";
import { freePlaces, smallestSide } from "../../model/rooms/sides.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { obstacles } from "../start/obstacles.ts";
import { roomView } from "../view.ts";
import { unwatchedEvent } from "../watching/spectators.ts";
import { type Companions, companionsOf, partyApart, whyApart } from "./companions.ts";
import { departedEvent } from "./decide-leaving.ts";

/** A player who wants in somewhere, and the events by which it leaves the room it is in for that. */
export interface Joining {
  readonly player: Player;
  readonly leaving: readonly RoomEvent[];
  /** Those of its party who come in with it. */
  readonly companions: Companions;
}

export type InRoom = PlayerReply<"room.join">;

/** Who wants in has to be in no room, or to say that it wants to move. */
export function joiningPlayerOf(
  context: RoomsContext,
  id: PlayerId,
  { move, alone }: { readonly move?: boolean | undefined; readonly alone?: boolean | undefined },
  into?: Room,
): Joining | Refusal {
  const { state } = context;
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const companions = companionsOf(state, player, alone);
  if (player.room === null) return { player, leaving: [], companions };
  const watched = state.rooms.byId.get(player.room);
  if (watched?.spectators.has(id)) return fromWatching(watched, { player, companions, isAsked: move === true, into });
  const present = roomOf(state, id);
  if ("refused" in present) return present;
  const { room } = present;
  if (into?.id === room.id) return refuse("already-in-room", `You are in room ${room.code} already.`);
  if (!move) {
    const detail = `You are in room ${room.code} already; leave it first, or ask with move: true.`;
    return refuse("already-in-room", detail);
  }
  return { player, leaving: [departedEvent(context, room, id, { reason: "moved" })], companions };
}

/** The attributes of a player who joins, where it has any. */
export function shownOf(
  { players: { attributes: declared } }: RoomsContext["rules"],
  player: Pick<Player, "attributes" | "identity"> | undefined,
): { readonly attributes?: PlayerAttributes } {
  if (declared === null || player === undefined) return {};
  const attributes = attributesOf(declared, player);
  return Object.keys(attributes).length === 0 ? {} : { attributes };
}

interface FromWatching extends Pick<Joining, "player" | "companions"> {
  readonly into: Room | undefined;
  readonly isAsked: boolean;
}

/** Who looks on becomes a member there without more; anywhere else it has to say that it wants to move. */
function fromWatching(watched: Room, { player, companions, into, isAsked }: FromWatching): Joining | Refusal {
  const isHere = into?.id === watched.id;
  if (!isHere && !isAsked) {
    return refuse("already-in-room", `You watch room ${watched.code}; leave it first, or ask with move: true.`);
  }
  const left = unwatchedEvent(watched, player.id, { reason: isHere ? "joined" : "moved" });
  return { player, leaving: [left], companions };
}

export function joinFor(
  { rules }: Pick<RoomsContext, "rules">,
  { player, leaving, companions }: Joining,
  room: Room,
  way: {
    readonly byCode: boolean;
    readonly password?: string | undefined;
    readonly isTrusted?: boolean;
    readonly side?: string | undefined;
    readonly isPut?: boolean;
    /** The leader that it follows. */
    readonly with?: PlayerId;
  },
): Decision<InRoom> {
  const [first] = obstacles(room, player, way);
  if (first) return refuse(first.code, `${first.text}. What would change it: ${first.change}.`);
  const apart = whyApart(room, player, companions.players);
  if (apart !== undefined) return partyApart(apart);
  const own = reservationOf(room, player);
  const side = way.side ?? own?.side ?? smallestSide(room, own);
  const isUnsettling = room.policy.clearsReady.includes("members");
  const joined: RoomEvent = {
    kind: "room.joined",
    room: room.id,
    lobby: room.lobby,
    player: player.id,
    name: player.name,
    place: freePlaces(room, 1)[0] ?? 0,
    ...(side !== undefined && { side }),
    ...(player.latency && { latency: player.latency }),
    ...shownOf(rules, player),
    ...(room.host === null && { host: player.id }),
    ...(isUnsettling && { unready: true as const }),
    ...(way.isPut && { by: "operator" as const }),
    ...(way.with !== undefined && { with: way.with }),
    ...(room.spectators.has(player.id) && { watched: true as const }),
    ...(own && { reserved: own.for }),
    ...(room.build === "" && { build: player.build }),
  };
  return accept([...leaving, joined, ...companions.called(room.id)], { reply: stateReply(room.id) });
}

export const stateReply =
  (id: string) =>
  (state: RoomsPart): InRoom => {
    const room = state.rooms.byId.get(id);
    if (room === undefined) throw new Error(`room ${id} is gone before its view was given`);
    return { room: roomView(state, room) };
  };
