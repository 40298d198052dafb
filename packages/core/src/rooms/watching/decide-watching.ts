import type { PlayerArgs, PlayerId, PlayerReply } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { wrongPhase } from "../../model/find-room.ts";
import type { Player } from "../../model/players/state.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { reservationOf } from "../../model/rooms/reservations.ts";
import { type Room, runOf } from "../../model/rooms/state.ts";
import { wantedRoom } from "../entry/decide-entry.ts";
import { departedEvent } from "../entry/decide-leaving.ts";
import { joiningPlayerOf, stateReply } from "../entry/joining.ts";
import { obstacles } from "../start/obstacles.ts";

type Watched = Extract<RoomEvent, { kind: "room.watched" }>;
type InRoom = PlayerReply<"room.watch">;

/** Comes in to look on, or as a member of the room gives its place up for that. */
export function watch(context: RoomsContext, id: PlayerId, args: PlayerArgs<"room.watch">): Decision<InRoom> {
  const found = wantedRoom(context, id, args);
  if ("refused" in found) return found;
  const { room, player } = found;
  if (room.spectators.has(id)) return accept([], { reply: stateReply(room.id) });
  const against = whyNotWatch(room, player, { byCode: !("room" in args), password: args.password });
  if (against) return against;
  if (room.members.has(id)) return giveUpPlace(context, room, player);
  const coming = joiningPlayerOf(context, id, { move: args.move, alone: true });
  if ("refused" in coming) return coming;
  return accept([...coming.leaving, watchedEvent(room, player)], { reply: stateReply(room.id) });
}

function giveUpPlace(context: RoomsContext, room: Room, player: Player): Decision<InRoom> {
  if (runOf(room) !== null || room.stage.phase === "counting") return wrongPhase(room);
  if (room.members.size === 1) {
    return refuse("wrong-phase", `You are the only one in room ${room.code}; there would be nobody to watch.`);
  }
  const left = departedEvent(context, room, player.id, { reason: "moved", watches: true });
  return accept([left, { ...watchedEvent(room, player), wasMember: true }], { reply: stateReply(room.id) });
}

function watchedEvent({ id: room, lobby, spectators, policy }: Room, { id: player, name }: Player): Watched {
  const taken = new Set([...spectators.values()].map((one) => one.place));
  const max = policy.spectators?.max ?? 0;
  const place = Array.from({ length: max }, (_, n) => n).find((n) => !taken.has(n)) ?? max;
  return { kind: "room.watched", room, lobby, player, name, place };
}

/** What is against looking on: the same as against joining, but for the places and the phase. */
function whyNotWatch(
  room: Room,
  player: Player,
  { byCode, password }: { readonly byCode: boolean; readonly password: string | undefined },
): Refusal | undefined {
  const { policy, spectators, code, kind } = room;
  if (policy.spectators == null) {
    return refuse("spectators-off", `Rooms of kind ${kind} have no spectators; join room ${code} to play.`);
  }
  const isIn = room.members.has(player.id) || reservationOf(room, player) !== undefined;
  const way = { byCode: byCode || isIn, isTrusted: isIn, password };
  const [first] = obstacles(room, player, way).filter((one) => CONCERNS_WATCHING.has(one.code));
  if (first && !(isIn && first.code === "room-locked")) {
    return refuse(first.code, `${first.text}. What would change it: ${first.change}.`);
  }
  if (spectators.size < policy.spectators.max) return undefined;
  return refuse(
    "spectators-full",
    `Room ${code} has ${spectators.size} spectators, which is the most; wait until one leaves.`,
  );
}

const CONCERNS_WATCHING: ReadonlySet<string> = new Set([
  "banned-from-room",
  "room-build-differs",
  "room-locked",
  "room-code-needed",
  "room-password-needed",
  "room-password-wrong",
]);

/** A spectator has lost the connection, or has it again. */
export function spectatorPresence(
  room: Room,
  player: PlayerId,
  change: { readonly presence: "here" } | { readonly presence: "away"; readonly untilMs: number },
): Decision {
  const spectator = room.spectators.get(player);
  if (spectator === undefined || spectator.presence === change.presence) return nothingToDo;
  return accept([{ kind: "room.spectator-changed", room: room.id, player, ...change }]);
}
