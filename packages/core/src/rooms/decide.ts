import type { PlayerArgs, PlayerId } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, nothingToDo, type RoomsMoment } from "../model/decision.ts";
import type { RoomAsk, RoomCommand } from "../model/rooms/commands.ts";
import { attend, markSilent } from "./entry/decide-attention.ts";
import { enter, join, open, seek } from "./entry/decide-entry.ts";
import { ban, depart, dissolve, leave, operatorPutOut, operatorUnban, putOut, unban } from "./entry/decide-leaving.ts";
import { balance, swap, take } from "./entry/decide-places.ts";
import { again, gather, operatorSetResult, resultsSeen, setResult, takeResult } from "./results/decide-results.ts";
import { loseRun, overdue, returnRoom } from "./results/decide-return.ts";
import { checkBaton, giveBaton, takeBaton } from "./settings/baton.ts";
import { eraseEntry, writeEntry } from "./settings/board.ts";
import { change, checkHost, handOver, operatorHandOver } from "./settings/decide-settings.ts";
import { vote } from "./settings/decide-votes.ts";
import { convene, launchMatch, takeIn } from "./start/decide-match.ts";
import { consider, launch, setReady, start, stopCount } from "./start/decide-start.ts";

type Asking<A extends RoomAsk> = (moment: RoomsMoment, player: PlayerId, args: PlayerArgs<A>) => Decision;

/** What members and those who want in may ask. */
const asks: { readonly [A in RoomAsk]: Asking<A> } = {
  "room.open": open,
  "room.join": join,
  "room.enter": enter,
  "room.seek": seek,
  "room.leave": leave,
  "room.change": change,
  "room.pick-level": change,
  "room.hand-over": handOver,
  "room.put-out": putOut,
  "room.unban": unban,
  "room.take": take,
  "room.swap": swap,
  "room.balance": balance,
  "room.vote": vote,
  "room.attend": attend,
  "room.ready": setReady,
  "room.start": start,
  "room.stop-count": stopCount,
  "room.set-result": setResult,
  "room.again": again,
  "room.gather": gather,
  "room.give-baton": giveBaton,
  "room.take-baton": takeBaton,
  "room.write": writeEntry,
  "room.erase": eraseEntry,
};

const isAsked = (command: RoomCommand): command is Extract<RoomCommand, { args: unknown }> => "args" in command;

export function decideRoom(moment: RoomsMoment, command: RoomCommand): Decision {
  if (isAsked(command)) return (asks[command.do] as Asking<RoomAsk>)(moment, command.player, command.args);
  switch (command.do) {
    case "room.operator-hand-over":
      return operatorHandOver(moment, command);
    case "room.operator-put-out":
      return operatorPutOut(moment, command);
    case "room.operator-ban":
      return ban(moment, command);
    case "room.operator-unban":
      return operatorUnban(moment, command);
    case "room.operator-set-result":
      return operatorSetResult(moment, command);
    case "room.consider":
      return consider(moment, command.room);
    case "room.check-host":
      return checkHost(moment, command.room);
    case "room.check-baton":
      return checkBaton(moment, command.room);
    case "room.launch":
      return launch(moment, command.room);
    case "room.dissolve":
      return dissolve(moment, command);
    case "room.depart":
      return depart(moment, command);
    case "room.mark-away":
      return markAway(moment, command);
    case "room.mark-back":
      return markBack(moment, command);
    case "room.measure":
      return measure(moment, command);
    case "room.mark-silent":
      return markSilent(moment, command);
    case "room.play":
      return play(moment, command);
    case "room.overdue":
      return overdue(moment, command.room);
    case "room.lose-run":
      return loseRun(moment, command);
    case "room.take-result":
      return takeResult(moment, command);
    case "room.results-seen":
      return resultsSeen(moment, command.room);
    case "room.return":
      return returnRoom(moment, command);
    case "room.convene":
      return convene(moment, command);
    case "room.launch-match":
      return launchMatch(moment, command.room);
    case "room.take-in":
      return takeIn(moment, command);
    case "room.close":
      return close(moment, command.room);
    default:
      return assertNever(command);
  }
}

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

function markAway({ state }: RoomsMoment, { room: id, player, untilMs }: Doing<"room.mark-away">): Decision {
  const member = state.rooms.byId.get(id)?.members.get(player);
  if (member === undefined || member.presence === "away") return nothingToDo;
  return accept([{ kind: "room.member-away", room: id, player, untilMs }]);
}

function markBack({ state }: RoomsMoment, { room: id, player }: Doing<"room.mark-back">): Decision {
  const member = state.rooms.byId.get(id)?.members.get(player);
  if (member === undefined || member.presence === "here") return nothingToDo;
  return accept([{ kind: "room.member-back", room: id, player }]);
}

function measure({ state }: RoomsMoment, { room: id, player, latency }: Doing<"room.measure">): Decision {
  if (!state.rooms.byId.get(id)?.members.has(player)) return nothingToDo;
  return accept([{ kind: "room.measured", room: id, player, latency }]);
}

function play({ state }: RoomsMoment, { room: id, run, destination }: Doing<"room.play">): Decision {
  const room = state.rooms.byId.get(id);
  if (room?.stage.phase !== "travelling" || room.stage.run !== run) return nothingToDo;
  return accept([{ kind: "room.playing", room: id, run, destination }]);
}

function close({ state }: RoomsMoment, id: string): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.members.size > 0) return nothingToDo;
  return accept([{ kind: "room.closed", room: id, lobby: room.lobby, code: room.code }]);
}
