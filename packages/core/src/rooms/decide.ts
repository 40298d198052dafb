import { accept, assertNever, type Decision, type Moment, nothingToDo } from "../harbor/decision.ts";
import { eraseEntry, writeEntry } from "./board.ts";
import type { RoomCommand } from "./commands.ts";
import { join, open, seek } from "./decide-entry.ts";
import { pickLevel, setReady } from "./decide-gathering.ts";
import { depart, dissolve, leave, operatorPutOut, putOut } from "./decide-leaving.ts";
import { change, handOver, operatorHandOver } from "./decide-settings.ts";
import { consider, launch, start, stopCount } from "./decide-start.ts";

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
    case "room.seek":
      return seek(moment, command.player, command.args);
    case "room.change":
      return change(moment, command.player, command.args);
    case "room.hand-over":
      return handOver(moment, command.player, command.args.to);
    case "room.operator-hand-over":
      return operatorHandOver(moment, command);
    case "room.put-out":
      return putOut(moment, command.player, command.args);
    case "room.operator-put-out":
      return operatorPutOut(moment, command);
    case "room.stop-count":
      return stopCount(moment, command.player);
    case "room.consider":
      return consider(moment, command.room);
    case "room.launch":
      return launch(moment, command.room);
    case "room.write":
      return writeEntry(moment, command.player, command.args);
    case "room.erase":
      return eraseEntry(moment, command.player, command.args);
    case "room.dissolve":
      return dissolve(moment, command);
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
