import type { MemberView, ResultView, RoomListing, RoomView } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import { hostName } from "../model/find-room.ts";
import { recordOf } from "../model/record.ts";
import { medianLatency } from "../model/rooms/median-latency.ts";
import { openPlaces } from "../model/rooms/reservations.ts";
import { sideSizes, sidesFull } from "../model/rooms/sides.ts";
import { type Member, type Room, runOf, type Turn } from "../model/rooms/state.ts";
import { takesNow } from "../model/rooms/takes-now.ts";
import type { RoomsPart } from "../model/state.ts";
import { travel } from "../travel/index.ts";
import { seriesView } from "./results/series.ts";
import { entryView } from "./settings/board.ts";
import { missingToStart } from "./start/explain.ts";
import { spectatorsView } from "./watching/spectators.ts";

export function memberView(member: Member): MemberView {
  const { id, name, place, side, role, ready, presence, latency, swapWith, awayUntilMs, attention, aboard, vote } =
    member;
  const { attributes, peersMs } = member;
  return {
    id,
    name,
    place,
    ready,
    presence,
    ...(side !== null && { side }),
    ...(role !== undefined && { role }),
    ...latency,
    ...(swapWith !== null && { swapWith }),
    ...(awayUntilMs !== null && { awayUntilMs }),
    ...(attention !== null && { attention }),
    ...(aboard && { aboard }),
    ...(vote !== null && { vote }),
    ...(attributes && Object.keys(attributes).length > 0 && { attributes }),
    ...(peersMs && Object.keys(peersMs).length > 0 && { peersMs: { ...peersMs } }),
  };
}

export const turnView = ({ holder, number, endsAtMs }: Turn) => ({
  holder,
  number,
  ...(endsAtMs !== null && { endsAtMs }),
});

/** The phase, and what a room has in it alone. */
function stageView(room: Room): Pick<RoomView, "phase" | "startsAtMs" | "gathersAtMs" | "run" | "destination"> {
  const { stage } = room;
  switch (stage.phase) {
    case "gathering":
      return { phase: stage.phase };
    case "counting":
      return { phase: stage.phase, startsAtMs: stage.startsAtMs };
    case "travelling":
      return { phase: stage.phase, run: stage.run };
    case "playing":
      return { phase: stage.phase, run: stage.run, destination: travel.views.destination(stage.destination, room) };
    case "results":
      return { phase: stage.phase, gathersAtMs: stage.gathersAtMs };
    default:
      return assertNever(stage);
  }
}

/** Places that are kept for somebody, as members see them: by the name that was given, never by account. */
export const reservedView = ({ reservations }: Room): NonNullable<RoomView["reserved"]> =>
  [...reservations.values()].map(({ name, side, untilMs }) => ({
    untilMs,
    ...(name !== null && { name }),
    ...(side !== null && { side }),
  }));

/** The complete view of a room. What is absent is left out: in a merge patch `null` means "remove". */
export function roomView(state: RoomsPart, room: Room): RoomView {
  const journey = travel.views.travel(state, runOf(room));
  const backfill = state.seen.queues.backfillOf(room.id);
  const { id, code, name, lobby, kind, capacity, visibility, build, settings, settingsRevision, revision } = room;
  const { openedAtMs, policy } = room;
  const watching = spectatorsView(room);
  const series = seriesView(room);
  return {
    id,
    code,
    name,
    lobby,
    kind,
    capacity,
    ...(room.region !== undefined && { region: room.region }),
    visibility,
    ...(room.password !== undefined && { hasPassword: true }),
    build,
    settings,
    settingsRevision,
    revision,
    ...stageView(room),
    ...(room.host !== null && { host: room.host }),
    ...(room.level && { level: room.level }),
    ...(policy.sides && {
      sides: Object.fromEntries(policy.sides.names.map((side) => [side, policy.sides?.max ?? 0])),
    }),
    members: recordOf([...room.members.values()].map((member) => [member.id, memberView(member)])),
    ...(watching && { spectators: watching }),
    banned: [...room.banned.keys()],
    ...(room.reservations.size > 0 && { reserved: reservedView(room) }),
    ...(room.turn && { turn: turnView(room.turn) }),
    board: recordOf([...room.board].map(([key, entry]) => [key, entryView(entry)])),
    missing: missingToStart(room),
    ...(backfill && { backfill }),
    ...(journey && { travel: journey }),
    ...(room.result && { result: resultView(room, room.result) }),
    ...(series && { series }),
    ...(room.setback && { setback: room.setback }),
    openedAtMs,
  };
}

export function roomListing(room: Room): RoomListing {
  const { id, code, name, kind, stage, capacity, visibility, build, settings, openedAtMs, policy } = room;
  const max = policy.sides?.max ?? 0;
  const sides = [...sideSizes(room)].map(([side, members]) => [side, { members, max }]);
  const latencyMs = medianLatency(room);
  return {
    id,
    code,
    name,
    kind,
    host: room.host === null ? "" : hostName(room),
    phase: stage.phase,
    ...(room.level && { level: room.level }),
    members: room.members.size,
    capacity,
    ...(room.reservations.size > 0 && { reserved: room.reservations.size }),
    visibility,
    ...(room.password !== undefined && { hasPassword: true }),
    build,
    ...(room.region !== undefined && { region: room.region }),
    ...(room.echo !== undefined && room.echo.player === room.host && { echo: room.echo.url }),
    settings,
    isOpen: visibility !== "locked" && takesNow(room) && openPlaces(room) > 0 && !sidesFull(room),
    ...(sides.length > 0 && { sides: Object.fromEntries(sides) }),
    ...(latencyMs !== undefined && { latencyMs }),
    openedAtMs,
  };
}

/** As members and operators see it: what else is kept of the run is for the back end, unless the room kind says otherwise. */
export function resultView({ policy }: Pick<Room, "policy">, result: ResultView): ResultView {
  if (result.payload === undefined || policy.resultPayload === "members") return result;
  const { payload: _, ...shown } = result;
  return shown;
}
