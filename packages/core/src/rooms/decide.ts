import type { PlayerId } from "@yellow-harbor/protocol";
import {
  accept,
  assertNever,
  type Decision,
  type Moment,
  nothingToDo,
  type ReplyOf,
  refuse,
} from "../harbor/decision.ts";
import { lobbyView } from "../lobbies/index.ts";
import type { RoomCommand } from "./commands.ts";
import { join, open } from "./decide-entry.ts";
import { pickLevel, setReady, start } from "./decide-gathering.ts";
import { nextHost } from "./handover.ts";
import type { Room } from "./state.ts";

export function decideRoom(moment: Moment, command: RoomCommand): Decision {
  switch (command.do) {
    case "room.open":
      return open(moment, command.player, command.args);
    case "room.join":
      return join(moment, command.player, command.args);
    case "room.leave":
      return leave(moment, command.player);
    case "room.pick-level":
      return pickLevel(moment, command.player, command.args.level);
    case "room.ready":
      return setReady(moment, command.player, command.args.ready);
    case "room.start":
      return start(moment, command.player);
    case "room.depart":
      return depart(moment, command);
    case "room.mark-away":
      return markAway(moment, command);
    case "room.mark-back":
      return markBack(moment, command);
    case "room.play":
      return play(moment, command);
    case "room.set-result":
      return setResult(moment, command);
    case "room.return":
      return returnToGathering(moment, command);
    case "room.close":
      return close(moment, command.room);
    default:
      return assertNever(command);
  }
}

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

function leave({ state }: Moment, player: PlayerId): Decision {
  const id = state.players.byId.get(player)?.room;
  const room = id == null ? undefined : state.rooms.byId.get(id);
  if (room === undefined) return refuse("not-in-room", "You are in no room, so there is none to leave.");
  const { lobby } = room;
  return departure(room, player, "left", (after) => ({ lobby: lobbyView(after, lobby) }));
}

function depart({ state }: Moment, { player, room: id, reason }: Doing<"room.depart">): Decision {
  const room = state.rooms.byId.get(id);
  return room?.members.has(player) ? departure(room, player, reason) : nothingToDo;
}

function departure(room: Room, player: PlayerId, reason: "left" | "lost", reply?: ReplyOf): Decision {
  const name = room.members.get(player)?.name ?? player;
  const host = room.host === player ? nextHost(room, player) : undefined;
  const event = { kind: "room.departed", room: room.id, lobby: room.lobby, player, name, reason } as const;
  return accept([host === undefined ? event : { ...event, host }], { ...(reply && { reply }) });
}

function markAway({ state }: Moment, { room: id, player, untilMs }: Doing<"room.mark-away">): Decision {
  const member = state.rooms.byId.get(id)?.members.get(player);
  if (member === undefined || member.presence === "away") return nothingToDo;
  return accept([{ kind: "room.member-away", room: id, player, untilMs }]);
}

function markBack({ state }: Moment, { room: id, player }: Doing<"room.mark-back">): Decision {
  const member = state.rooms.byId.get(id)?.members.get(player);
  if (member === undefined || member.presence === "here") return nothingToDo;
  return accept([{ kind: "room.member-back", room: id, player }]);
}

function play({ state }: Moment, { room: id, run, instance, address }: Doing<"room.play">): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.phase !== "travelling" || room.run !== run) return nothingToDo;
  return accept([{ kind: "room.playing", room: id, run, instance, address }]);
}

function setResult({ state }: Moment, { room: id, run, standings, note }: Doing<"room.set-result">): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.phase !== "playing" || room.run !== run) return nothingToDo;
  return accept([{ kind: "room.result-set", room: id, run, standings, ...(note !== undefined && { note }) }]);
}

function returnToGathering({ state }: Moment, { room: id, run, code, detail }: Doing<"room.return">): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.phase === "gathering" || room.run !== run) return nothingToDo;
  return accept([{ kind: "room.returned", room: id, run, code, detail }]);
}

function close({ state }: Moment, id: string): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.members.size > 0) return nothingToDo;
  return accept([{ kind: "room.closed", room: id, lobby: room.lobby, code: room.code }]);
}
