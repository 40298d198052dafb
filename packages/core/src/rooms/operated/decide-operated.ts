import type { Revised } from "@yellow-harbor/protocol";
import { accept, type Decision, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, unknownMember, unknownRoom } from "../../model/find-room.ts";
import type { OperatorRoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room } from "../../model/rooms/state.ts";
import { joinFor, joiningPlayerOf } from "../entry/joining.ts";
import { changeRoom } from "../settings/decide-settings.ts";
import { setReadyOf, startRoom } from "../start/decide-start.ts";

type Doing<K extends OperatorRoomCommand["do"]> = Extract<OperatorRoomCommand, { do: K }>;

interface ToRoom {
  readonly room: string;
  readonly basedOn?: number | undefined;
}

/** The room that something is to be done to, unless it has changed since the one who asks looked at it. */
export function operatedRoom({ state }: RoomsContext, { room: id, basedOn }: ToRoom): Room | Refusal {
  const room = state.rooms.byId.get(id);
  if (room === undefined) return unknownRoom(id);
  if (basedOn === undefined || basedOn === room.revision) return room;
  const detail = `Room ${room.code} is at revision ${room.revision}, not ${basedOn}. Look at it again, then decide.`;
  return refuse("revision-stale", detail, { current: { revision: room.revision } });
}

export function operatorChange(context: RoomsContext, command: Doing<"room.operator-change">): Decision<Revised> {
  const room = operatedRoom(context, command);
  return "refused" in room ? room : changeRoom(context, room, command.change);
}

export function operatorReady(context: RoomsContext, command: Doing<"room.operator-ready">): Decision<Revised> {
  const room = operatedRoom(context, command);
  if ("refused" in room) return room;
  const member = room.members.get(command.player);
  return member === undefined ? unknownMember(room, command.player) : setReadyOf(room, member, command.ready);
}

export function operatorStart(context: RoomsContext, command: Doing<"room.operator-start">): Decision<Revised> {
  const room = operatedRoom(context, command);
  return "refused" in room ? room : startRoom(context, room);
}

/** Somebody is brought in, out of another room where it is in one. Room, build, bans and sides count as ever. */
export function operatorPut(context: RoomsContext, command: Doing<"room.operator-put">): Decision<Revised> {
  const room = operatedRoom(context, command);
  if ("refused" in room) return room;
  const { player, side } = command;
  if (room.members.has(player)) return accept([], { reply: revisionReply(room.id) });
  const joining = joiningPlayerOf(context, player, { move: true, alone: true }, room);
  if ("refused" in joining) return refuse("player-unknown", `There is no player ${player}; it has left.`);
  if (joining.player.presence !== "here") {
    return refuse("player-away", `${joining.player.name} is away; bring it in once it is connected again.`);
  }
  const joined = joinFor(context, joining, room, { byCode: false, side, isPut: true });
  return "refused" in joined ? joined : { ...joined, reply: revisionReply(room.id) };
}

/** What the room is doing comes to its end: a count stops, a run is void, results are put away. */
export function operatorEnd(context: RoomsContext, command: Doing<"room.operator-end">): Decision<Revised> {
  const room = operatedRoom(context, command);
  if ("refused" in room) return room;
  const why = `an operator has ended it${command.reason === undefined ? "" : `: ${command.reason}`}`;
  const event = endOf(room, why);
  return "refused" in event ? event : accept([event], { reply: revisionReply(room.id) });
}

function endOf({ id, code, stage }: Room, why: string): RoomEvent | Refusal {
  switch (stage.phase) {
    case "counting":
      return { kind: "room.count-stopped", room: id, why };
    case "playing":
      return {
        kind: "room.returned",
        room: id,
        run: stage.run,
        code: "run-ended",
        detail: `The run is void, since ${why}.`,
        void: true,
      };
    case "results":
      return { kind: "room.gathered", room: id };
    case "travelling":
      return refuse("wrong-phase", `Room ${code} is travelling; abort its travel instead (yh room abort-travel).`);
    case "gathering":
      return refuse("wrong-phase", `Room ${code} is gathering; there is nothing to end.`);
  }
}
