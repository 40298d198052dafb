import type { Revised } from "@yellow-harbor/protocol";
import { type PlayerArgs, type PlayerId, phaseWords, type RoomId } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf, unknownRoom } from "../../model/find-room.ts";
import { type Outcome, outcomeOf, outcomeRefusal, type ReportedOutcome } from "../../model/outcome.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { pickable } from "../settings/decide-settings.ts";
import { nextInOrder } from "../settings/levels.ts";
import { startedEvent } from "../start/decide-start.ts";
import { shortcomings } from "../start/explain.ts";
import { seriesAfter } from "./series.ts";

type Doing<K extends RoomCommand["do"]> = Extract<RoomCommand, { do: K }>;

export function setResult(
  context: RoomsContext,
  player: PlayerId,
  said: PlayerArgs<"room.set-result">,
): Decision<Revised> {
  const found = roomOf(context.state, player, { hostOnly: "set the result" });
  return "refused" in found ? found : decideResult(found.room, context, { by: "host", said });
}

export function operatorSetResult(
  context: RoomsContext,
  { do: _, room: id, ...said }: Doing<"room.operator-set-result">,
): Decision<Revised> {
  const room = context.state.rooms.byId.get(id);
  return room === undefined ? unknownRoom(id) : decideResult(room, context, { by: "operator", said });
}

/** What the instance has reported; its own decision has checked it. */
export function takeResult(context: RoomsContext, { room: id, run, outcome }: Doing<"room.record-result">): Decision {
  const room = context.state.rooms.byId.get(id);
  if (room?.stage.phase !== "playing" || room.stage.run !== run) return nothingToDo;
  return accept([resultEvent(room, run, context, outcome)]);
}

interface Given {
  readonly by: Room["policy"]["resultBy"];
  readonly said: ReportedOutcome;
}

function decideResult(room: Room, context: RoomsContext, { by, said }: Given): Decision<Revised> {
  const { resultBy } = room.policy;
  if (resultBy !== by) {
    return refuse(
      "result-not-yours",
      `In rooms of kind ${room.kind} the ${resultBy} decides the result, not the ${by}.`,
    );
  }
  if (room.stage.phase !== "playing") return noRun(room);
  const sides = room.policy.sides?.names ?? [];
  const unfit = outcomeRefusal(said, { has: (player) => room.members.has(player), of: "room", sides });
  if (unfit) return unfit;
  return accept([resultEvent(room, room.stage.run, context, outcomeOf(said))], {
    reply: revisionReply(room.id),
  });
}

function noRun({ code, stage, result }: Room): Refusal {
  if (stage.phase !== "travelling" && result !== null) {
    return refuse("result-known", `The result of the last run of room ${code} is set; it stays as it is.`);
  }
  return refuse("wrong-phase", `Room ${code} ${phaseWords[stage.phase]}; a result is set while it is playing.`);
}

function resultEvent(room: Room, run: string, { at, rules }: RoomsContext, outcome: Outcome): RoomEvent {
  const { resultsMs, levelBy } = room.policy;
  const step = seriesAfter(room, outcome);
  const next = levelBy === "rotation" ? nextInOrder(rules, room) : undefined;
  return {
    kind: "room.result-set",
    room: room.id,
    run,
    ...outcome,
    ...(step && { series: step.series, ...(step.sides && { swapped: step.sides }) }),
    ...(resultsMs > 0 && { untilMs: at + resultsMs }),
    ...(next && { next }),
  };
}

export function resultsSeen({ state }: RoomsContext, id: RoomId): Decision {
  return state.rooms.byId.get(id)?.stage.phase === "results"
    ? accept([{ kind: "room.gathered", room: id }])
    : nothingToDo;
}

export function gather({ state }: RoomsContext, player: PlayerId): Decision<Revised> {
  const found = resultsOf(state, player, "end the showing of results");
  if ("refused" in found) return found;
  return accept([{ kind: "room.gathered", room: found.id, by: player }], { reply: revisionReply(found.id) });
}

/** The same level once more, or another, with who is here, without asking everybody again. */
export function again(
  context: RoomsContext,
  player: PlayerId,
  { level: wanted }: PlayerArgs<"room.again">,
): Decision<Revised> {
  const present = resultsOf(context.state, player, "start again");
  if ("refused" in present) return present;
  const level = wanted === undefined ? present.level : pickable(context, present, wanted);
  if (level !== null && "refused" in level) return level;
  const room = { ...present, level };
  const missing = shortcomings(room).filter((row) => row.code !== "ready");
  if (missing.length > 0) {
    const reasons = missing.map((row) => row.text).join("; ");
    return refuse("start-not-possible", `Cannot start again: ${reasons}. Gather first.`, { missing });
  }
  const started = startedEvent(context, room);
  if (!("kind" in started)) return started;
  const isOther = level !== null && level.id !== present.level?.id;
  const picked: RoomEvent[] = isOther ? [{ kind: "room.level-picked", room: room.id, by: player, level }] : [];
  return accept([...picked, started], { reply: revisionReply(room.id) });
}

function resultsOf(state: RoomsPart, player: PlayerId, power: string): Room | Refusal {
  const found = roomOf(state, player, { hostOnly: power });
  if ("refused" in found) return found;
  const { room } = found;
  if (room.stage.phase === "results") return room;
  return refuse(
    "wrong-phase",
    `Room ${room.code} ${phaseWords[room.stage.phase]}; this works only while it shows results.`,
  );
}
