import type { MatchAssignment } from "@yellow-harbor/protocol";
import type { Command } from "../../model/command.ts";
import { runOf } from "../../model/find-room.ts";
import { isIdle } from "../../model/pools/holds.ts";
import type { MadeMatch } from "../../model/queues/state.ts";
import type { HarborState } from "../../model/state.ts";
import { pools } from "../../pools/index.ts";
import { rooms } from "../../rooms/index.ts";
import { travel as travels } from "../../travel/index.ts";

/** Something became of an instance of a version that is being rolled out. */
export function considerBuild(id: string, { pools, builds }: HarborState): readonly Command[] {
  const line = builds.byLine.get(pools.instances.get(id)?.build ?? "");
  return line?.canary ? [{ do: "build.consider", line: line.line }] : [];
}

/** Instances of versions that are on their way out and that nobody holds stop at once; the others when they are let go of. */
export function drainVersions(
  line: string,
  isOut: (version: string) => boolean,
  why: string,
  { pools }: HarborState,
): readonly Command[] {
  return [...pools.instances.values()]
    .filter((one) => one.build === line && !one.gone && isOut(one.version) && isIdle(one))
    .map(({ id }) => ({ do: "pool.drain", id, why }) as const);
}

export function drainMachine(
  machine: string,
  { why, untilMs }: { readonly why: string; readonly untilMs: number | undefined },
  { pools }: HarborState,
): readonly Command[] {
  return [...pools.instances.values()]
    .filter((one) => one.machine === machine && !one.gone)
    .map(({ id }) => ({ do: "pool.drain", id, why, untilMs }) as const);
}

/** The rooms that hold an open instance may be waiting for it. */
export function assignWaitingMatches(id: string, state: HarborState): readonly Command[] {
  const instance = state.pools.instances.get(id);
  if (instance?.state !== "open" && instance?.state !== "busy") return [];
  return [...instance.holds].flatMap(([room, match]) => (match === null ? assignWaiting(id, room, state) : []));
}

function assignWaiting(id: string, held: string, state: HarborState): readonly Command[] {
  const room = state.rooms.byId.get(held);
  const travel = state.travels.byRun.get(runOf(room) ?? "");
  // A room that has another one by now waits for that.
  const isHeld = state.pools.byRoom.get(held) === id;
  if (room === undefined || travel?.step !== "preparing" || !isHeld) return [];
  const players = [...travel.travellers.values()].map((one) => pools.views.matchPlayer(state.seen.rooms, room.id, one));
  const { id: level, attributes } = travel.level;
  const spread = travels.views.spread(room);
  const made = state.queues.matches.get(state.queues.byRoom.get(room.id) ?? "");
  const series = rooms.views.seriesRun(room.policy, room.series);
  const match: MatchAssignment = {
    room: room.id,
    run: travel.run,
    level,
    players,
    kind: room.kind,
    settings: room.settings,
    ...(room.host !== null && { host: room.host }),
    ...(made && { match: queueMatch(made) }),
    ...(attributes && { attributes }),
    ...(spread && { spread }),
    ...(series && { series }),
    ...(room.policy.spectators && { spectators: { ...room.policy.spectators } }),
  };
  return [{ do: "instance.assign", instance: id, match }];
}

const queueMatch = ({ id, queue, region, tickets }: MadeMatch): MatchAssignment["match"] => ({
  id,
  queue,
  region,
  parties: tickets.filter(({ players }) => players.length > 1).map(({ players }) => players.map((player) => player.id)),
});

/** A room loses the instance that it goes to, or plays at. */
export function loseInstance(
  id: string | null,
  instance: string,
  why: string,
  state: HarborState,
  portTaken?: true,
): readonly Command[] {
  const room = id === null ? undefined : state.rooms.byId.get(id);
  // When the room holds another one by now, it was on its way from this one.
  const stage = room?.stage;
  if (room === undefined || stage === undefined || !("run" in stage) || state.pools.byRoom.has(room.id)) return [];
  const { run } = stage;
  const detail = `${instance} ${why}.`;
  if (state.travels.byRun.has(run)) return [{ do: "travel.lose-instance", run, detail, portTaken }];
  const isPlayedThere =
    stage.phase === "playing" && stage.destination.by === "dedicated" && stage.destination.instance === instance;
  if (!isPlayedThere) return [];
  return [
    { do: "room.lose-run", room: room.id, run, code: "instance-lost", detail: `The instance was lost: ${detail}` },
  ];
}
