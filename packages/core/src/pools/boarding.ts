import type { Acknowledged, BoardReply } from "@yellow-harbor/protocol";
import { phaseWords, type RoomId } from "@yellow-harbor/protocol";
import { checkBerth } from "../model/berths.ts";
import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import type { InstanceCommand } from "../model/pools/commands.ts";
import { matchesOf, matchFor, matchOfRun, matchWith } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import { rank } from "../model/rank.ts";
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
  const reply = () => ({ player: matchPlayer(seen.rooms, room, { id: player, name, place }), room, run, level });
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

/** Whether a report is the one that was taken: an instance that did not hear the answer says it once more. */
function isSaidAgain({ seen }: PoolsPart, { run, standings, note }: Doing<"instance.report">): boolean {
  const result = seen.rooms.resultOf(run);
  if (result?.standings.length !== standings.length || result.note !== note) return false;
  const scores = new Map(result.standings.map(({ player, score }) => [player, score]));
  return standings.every(({ player, score }) => scores.get(player) === score);
}

/** The instance says how the run ended. It is the one place that decides it, and it decides once. */
export function report(
  { state }: PoolsContext,
  instance: Instance,
  command: Doing<"instance.report">,
): Decision<Acknowledged> {
  const { run, standings, note } = command;
  if (instance.lastRuns.includes(run) && isSaidAgain(state, command)) return accept([], { reply: () => ({}) });
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
  const stranger = standings.findIndex((row) => !match.berths.has(row.player));
  if (stranger >= 0) {
    const fields = [{ path: `standings[${stranger}].player`, message: "expected a player of this match" }];
    return refuse("request-invalid", "The standings name a player who is not of this match.", { fields });
  }
  if (new Set(standings.map((row) => row.player)).size < standings.length) {
    return refuse("request-invalid", "The standings name a player twice; give each player one row.");
  }
  const event = {
    kind: "instance.reported",
    instance: instance.id,
    room: match.room,
    run,
    standings: rank(standings),
  } as const;
  return accept([note === undefined ? event : { ...event, note }], { reply: () => ({}) });
}
