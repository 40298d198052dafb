import type { Acknowledged, BoardReply, ScoreRow } from "@yellow-harbor/protocol";
import { phaseWords, type RoomId } from "@yellow-harbor/protocol";
import { checkBerth } from "../model/berths.ts";
import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { isSaidAgain, outcomeOf, outcomeRefusal, type ReportedOutcome } from "../model/outcome.ts";
import type { InstanceCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf, matchFor, matchOfRun, matchWith } from "../model/pools/holds.ts";
import type { Instance, InstanceMatch } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";
import { wakeUp } from "./ending.ts";
import { matchPlayer } from "./match-player.ts";

type Doing<K extends InstanceCommand["do"]> = Extract<InstanceCommand, { do: K }>;

/** A player shows a pass whose signature, expiry and instance were found right: the berth must still be kept for it. */
export function board(
  { seen }: PoolsPart,
  instance: Instance,
  { attempt, ...shown }: Doing<"instance.board">,
): Decision<BoardReply> {
  // A pass of another run is told why by the match in which its player has a berth now.
  const match = matchOfRun(instance, shown.run) ?? matchWith(instance, shown.player) ?? matchesOf(instance)[0];
  const check = checkBerth(match ?? null, shown, attempt);
  if (typeof check === "object") return check;
  const { player } = shown;
  const berth = match?.berths.get(player);
  if (match === undefined || berth === undefined) throw new Error(`a berth of ${player} was found, and is not there`);
  const { name, place } = berth;
  const { room, run, level } = match;
  const who = matchPlayer(seen.rooms, room, { id: player, name, place });
  const reply = () => ({ player: who, room, run, level, ...(berth.spectator && { spectator: true as const }) });
  if (check === "repeated") return accept([], { reply });
  const event = { kind: "instance.boarded", instance: instance.id, player, name, run } as const;
  return accept([attempt === undefined ? event : { ...event, attempt }], { reply });
}

export function unboard(instance: Instance, { player, reason }: Doing<"instance.unboard">): Decision<Acknowledged> {
  const match = matchWith(instance, player);
  const berth = match?.berths.get(player);
  const reply = (): Acknowledged => ({});
  // After the result the match is over and players close their connections one by one.
  if (matchesOf(instance).length === 0) return accept([], { reply });
  if (match === undefined || berth === undefined) {
    return refuse("berth-unknown", `No berth is kept for ${player} on this instance.`);
  }
  if (berth.state === "left") return accept([], { reply });
  const { run } = match;
  return accept([{ kind: "instance.unboarded", instance: instance.id, player, name: berth.name, reason, run }], {
    reply,
  });
}

/** A member left the room: its berth is not kept for it any longer, and the instance need not wait for it. */
export function freeBerth(instance: Instance, room: RoomId, player: string): Decision {
  const match = matchFor(instance, room);
  const berth = match?.berths.get(player);
  if (match === undefined || berth === undefined || berth.state === "left") return nothingToDo;
  const instruction = { number: instance.instructionsGiven + 1, run: match.run };
  const event = { kind: "instance.unboarded", instance: instance.id, player, name: berth.name } as const;
  return accept([{ ...event, reason: "left-room", ...instruction }], {
    effects: [wakeUp(instance)],
  });
}

/** The instance says how the run ended. It is the one place that decides it, and it decides once. */
export function report(
  { state }: PoolsContext,
  instance: Instance,
  command: Doing<"instance.report">,
): Decision<Acknowledged> {
  const { do: _, instance: __, run, ...said } = command;
  if (instance.lastRuns.includes(run) && isSaidAgain(said, state.seen.rooms.resultOf(run)))
    return accept([], { reply: () => ({}) });
  if (instance.lastRuns.includes(run))
    return refuse("result-known", `The result of run ${run} was reported before; it stays as it is.`);
  const match = matchOfRun(instance, run);
  if (match === undefined) {
    return refuse(
      "match-unknown",
      `This instance has no match with run ${run}; report the run of the instruction match-assigned.`,
    );
  }
  const room = state.seen.rooms.room(match.room);
  if (room?.stage.phase !== "playing") {
    return refuse(
      "wrong-phase",
      `The run has not begun: room ${room?.code ?? match.room} ${phaseWords[room?.stage.phase ?? "closed"]}.`,
    );
  }
  if (room.policy.resultBy !== "instance") {
    const detail = `In rooms of kind ${room.kind} the ${room.policy.resultBy} decides the result, not the instance.`;
    return refuse("result-not-yours", detail);
  }
  const sides = room.policy.sides?.names ?? [];
  const unfit = outcomeRefusal(said, { has: (player) => isPlayerOf(match, player), of: "match", sides });
  if (unfit) return unfit;
  const event: PoolEvent = {
    kind: "instance.reported",
    instance: instance.id,
    room: match.room,
    run,
    ...outcomeOf(withVerdicts(said, match)),
  };
  return accept([event], { reply: () => ({}) });
}

/** Whoever looks on has no part in the result. */
const isPlayerOf = ({ berths }: InstanceMatch, player: string): boolean => {
  const berth = berths.get(player);
  return berth !== undefined && !berth.spectator;
};

/** Who is not there any more has left, where the instance does not say otherwise. */
function withVerdicts(said: ReportedOutcome, { berths }: InstanceMatch): ReportedOutcome {
  const standings = said.standings.map((row): ScoreRow => {
    const berth = berths.get(row.player);
    if (berth?.state !== "left") return row;
    return { verdict: berth.kicked ? "kicked" : "left", ...row };
  });
  return { ...said, standings };
}

/** The instance removes a player from its match and its room: it says why, and need not be told. */
export function kick(
  _context: PoolsContext,
  instance: Instance,
  { player, reason, ban }: Doing<"instance.kick">,
): Decision<Acknowledged> {
  const match = matchWith(instance, player);
  const berth = match?.berths.get(player);
  const reply = (): Acknowledged => ({});
  if (match === undefined || berth === undefined) {
    return refuse("berth-unknown", `No berth is kept for ${player} on this instance.`);
  }
  const { run, room } = match;
  const unboarded: PoolEvent = {
    kind: "instance.unboarded",
    instance: instance.id,
    player,
    name: berth.name,
    reason: "kicked",
    run,
    kick: { room, ban, ...(reason !== undefined && { why: reason }) },
  };
  return accept([unboarded], { reply });
}
