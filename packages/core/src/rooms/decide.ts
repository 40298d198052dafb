import type { PlayerArgs, PlayerId, PlayerReply, RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type RoomsContext } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { RoomAsk, RoomCommand } from "../model/rooms/commands.ts";
import type { RoomsPart } from "../model/state.ts";
import { closing } from "./entry/closing.ts";
import { comeAlong } from "./entry/come-along.ts";
import { markSilent, setBackground } from "./entry/decide-attention.ts";
import { join, joinOrOpen, open, quickJoin } from "./entry/decide-entry.ts";
import {
  ban,
  depart,
  dissolve,
  instanceKick,
  kick,
  leave,
  operatorKick,
  operatorUnban,
  unban,
} from "./entry/decide-leaving.ts";
import { describeMember, setOwnAttributes, tellLatencies } from "./entry/decide-own.ts";
import { balance, swap, take } from "./entry/decide-places.ts";
import { checkIdle, sayHere } from "./entry/idleness.ts";
import { decline, invite, muteInvites, uninvite } from "./inviting/decide-inviting.ts";
import { operatorOpen } from "./operated/decide-opening.ts";
import { operatorChange, operatorEnd, operatorPut, operatorReady, operatorStart } from "./operated/decide-operated.ts";
import { cancel, reservationsLate, reserve } from "./operated/reservations.ts";
import { again, gather, operatorSetResult, resultsSeen, setResult, takeResult } from "./results/decide-results.ts";
import { loseRun, overdue, returnRoom } from "./results/decide-return.ts";
import { eraseEntry, writeEntry } from "./settings/board.ts";
import { change, checkHost, handOver, operatorHandOver } from "./settings/decide-settings.ts";
import { vote } from "./settings/decide-votes.ts";
import { tellEcho } from "./settings/regions.ts";
import { checkTurn, endTurns, passTurn } from "./settings/turn.ts";
import { convene, launchMatch, takeIn } from "./start/decide-match.ts";
import { consider, launch, setReady, start, stopCount } from "./start/decide-start.ts";
import { spectatorPresence, watch } from "./watching/decide-watching.ts";

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

/** Decides what a member, or somebody who wants in, asks. */
const asked =
  <A extends RoomAsk>(
    decide: (context: RoomsContext, player: PlayerId, args: PlayerArgs<A>) => Decision<PlayerReply<A>>,
  ) =>
  (context: RoomsContext, { player, args }: { readonly player: PlayerId; readonly args: PlayerArgs<A> }) =>
    decide(context, player, args);

/** Decides about a room of which nothing else is said. */
const about =
  (decide: (context: RoomsContext, room: RoomId) => Decision) =>
  (context: RoomsContext, { room }: { readonly room: RoomId }) =>
    decide(context, room);

export const decideRoom = decideBy<RoomCommand, RoomsPart>({
  "room.open": asked<"room.open">(open),
  "room.join": asked<"room.join">(join),
  "room.join-or-open": asked<"room.join-or-open">(joinOrOpen),
  "room.quick-join": asked<"room.quick-join">(quickJoin),
  "room.watch": asked<"room.watch">(watch),
  "room.leave": asked<"room.leave">(leave),
  "room.invite": asked<"room.invite">(invite),
  "room.uninvite": asked<"room.uninvite">(uninvite),
  "room.decline": asked<"room.decline">(decline),
  "room.mute-invites": asked<"room.mute-invites">(muteInvites),
  "room.change": asked<"room.change">(change),
  "room.pick-level": asked<"room.pick-level">(change),
  "room.hand-over": asked<"room.hand-over">(handOver),
  "room.set-attributes": asked<"room.set-attributes">(setOwnAttributes),
  "room.tell-latencies": asked<"room.tell-latencies">(tellLatencies),
  "room.tell-echo": tellEcho,
  "room.here": (context, { player }) => sayHere(context, player),
  "room.kick": asked<"room.kick">(kick),
  "room.unban": asked<"room.unban">(unban),
  "room.move-to": asked<"room.move-to">(take),
  "room.swap": asked<"room.swap">(swap),
  "room.balance": asked<"room.balance">(balance),
  "room.vote": asked<"room.vote">(vote),
  "room.set-background": asked<"room.set-background">(setBackground),
  "room.ready": asked<"room.ready">(setReady),
  "room.start": asked<"room.start">(start),
  "room.stop-count": asked<"room.stop-count">(stopCount),
  "room.set-result": asked<"room.set-result">(setResult),
  "room.again": asked<"room.again">(again),
  "room.gather": asked<"room.gather">(gather),
  "room.pass-turn": asked<"room.pass-turn">(passTurn),
  "room.end-turns": asked<"room.end-turns">(endTurns),
  "board.set": asked<"board.set">(writeEntry),
  "board.remove": asked<"board.remove">(eraseEntry),
  "room.operator-open": operatorOpen,
  "room.operator-change": operatorChange,
  "room.operator-put": operatorPut,
  "room.operator-ready": operatorReady,
  "room.operator-start": operatorStart,
  "room.operator-end": operatorEnd,
  "room.operator-reserve": reserve,
  "room.operator-cancel": cancel,
  "room.reservations-late": about(reservationsLate),
  "room.operator-hand-over": operatorHandOver,
  "room.operator-kick": operatorKick,
  "room.instance-kick": instanceKick,
  "room.operator-ban": ban,
  "room.operator-unban": operatorUnban,
  "room.operator-set-result": operatorSetResult,
  "room.consider": about(consider),
  "room.check-host": about(checkHost),
  "room.check-turn": about(checkTurn),
  "room.launch": about(launch),
  "room.dissolve": dissolve,
  "room.depart": depart,
  "room.mark-away": markAway,
  "room.mark-back": markBack,
  "room.measure": measure,
  "room.check-idle": about(checkIdle),
  "room.describe-member": describeMember,
  "room.mark-silent": markSilent,
  "room.play": play,
  "room.overdue": about(overdue),
  "room.lose-run": loseRun,
  "room.record-result": takeResult,
  "room.results-seen": about(resultsSeen),
  "room.return": returnRoom,
  "room.convene": convene,
  "room.launch-match": about(launchMatch),
  "room.admit": takeIn,
  "room.close": about(close),
  "room.come-along": comeAlong,
});

function markAway({ state }: RoomsContext, { room: id, player, untilMs }: Doing<"room.mark-away">): Decision {
  const room = state.rooms.byId.get(id);
  if (room?.spectators.has(player)) return spectatorPresence(room, player, { presence: "away", untilMs });
  const member = room?.members.get(player);
  if (member === undefined || member.presence === "away") return nothingToDo;
  return accept([{ kind: "room.member-away", room: id, player, untilMs }]);
}

function markBack({ state }: RoomsContext, { room: id, player }: Doing<"room.mark-back">): Decision {
  const room = state.rooms.byId.get(id);
  if (room?.spectators.has(player)) return spectatorPresence(room, player, { presence: "here" });
  const member = room?.members.get(player);
  if (member === undefined || member.presence === "here") return nothingToDo;
  return accept([{ kind: "room.member-back", room: id, player }]);
}

function measure({ state }: RoomsContext, { room: id, player, latency }: Doing<"room.measure">): Decision {
  if (!state.rooms.byId.get(id)?.members.has(player)) return nothingToDo;
  return accept([{ kind: "room.measured", room: id, player, latency }]);
}

function play({ state }: RoomsContext, { room: id, run, destination }: Doing<"room.play">): Decision {
  const room = state.rooms.byId.get(id);
  if (room?.stage.phase !== "travelling" || room.stage.run !== run) return nothingToDo;
  return accept([{ kind: "room.playing", room: id, run, destination }]);
}

function close({ state }: RoomsContext, id: string): Decision {
  const room = state.rooms.byId.get(id);
  if (room === undefined || room.members.size > 0) return nothingToDo;
  return accept(closing(room));
}
