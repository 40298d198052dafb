import type { PlayerId, RoomPolicy } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import type { Destination } from "../model/destination.ts";
import { ban } from "../model/rooms/bans.ts";
import type { RoomEvent } from "../model/rooms/events.ts";
import { reservationKey } from "../model/rooms/reservations.ts";
import type { Gathering, Playing, Room, RoomsState, Stage, Travelling } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { applyMember, clearReady, type MemberEvent, markAway, memberOf, seat } from "./apply-member.ts";
import { nameRoom, reindex, takeOut, unnameRoom } from "./directory/open-index.ts";
import { noteActivity } from "./entry/idleness.ts";
import { keep, without } from "./operated/kept-places.ts";
import { patchSettings } from "./settings/decide-settings.ts";
import { applyWatching, spectatorsAway } from "./watching/spectators.ts";

type Of<K extends RoomEvent["kind"]> = Extract<RoomEvent, { kind: K }>;

export function applyRoom(state: RoomsPart, event: RoomEvent, at: number): void {
  if (event.kind === "room.opened") return open(state, event, at);
  if (event.kind === "room.set-up") return setUp(state, event, at);
  if (event.kind === "room.closed") return close(state, event);
  const room = roomOf(state, event.room);
  change(state, room, event, at);
  if ("unready" in event && event.unready) clearReady(room);
  noteActivity(state, room, event, at);
  reindex(state.rooms, room);
}

function change(
  state: RoomsPart,
  room: Room,
  event: Exclude<RoomEvent, { kind: "room.opened" | "room.set-up" | "room.closed" }>,
  at: number,
): void {
  switch (event.kind) {
    case "room.settings-changed":
      return changeSettings(state, room, event);
    case "room.place-reserved": {
      const { kind: _, room: __, ...reservation } = event;
      return keep(state, room, new Map([...room.reservations, [reservationKey(event.for), reservation]]));
    }
    case "room.reservation-ended":
      return keep(state, room, without(room.reservations, event.for));
    case "room.banned":
      return ban(room, event.player, state.players.byId.get(event.player));
    case "room.unbanned":
      room.banned.delete(event.player);
      return;
    case "room.board-set": {
      const { key, value, size, owner, onLeave } = event;
      const revision = (room.board.get(key)?.revision ?? 0) + 1;
      room.board.set(key, { value, size, owner, onLeave, revision });
      return;
    }
    case "room.echo-told":
      if (event.echo === null) delete room.echo;
      else room.echo = { player: event.player, url: event.echo };
      return;
    case "room.board-removed":
      room.board.delete(event.key);
      return;
    case "room.host-changed":
      room.host = event.host;
      clearDeadline(state.deadlines, "room-host", room.id);
      return;
    case "room.turn-passed": {
      const { holder, limitMs, endsAtMs } = event;
      room.turn = { holder, number: (room.turn?.number ?? 0) + 1, limitMs, endsAtMs };
      return timeTurn(state, room);
    }
    case "room.turns-ended":
      room.turn = null;
      return timeTurn(state, room);
    case "room.level-picked":
      room.level = event.level;
      room.settingsRevision += 1;
      return;
    case "room.counting":
      room.stage = { phase: "counting", startsAtMs: event.startsAtMs };
      room.setback = null;
      setDeadline(state.deadlines, "room-countdown", room.id, event.startsAtMs);
      return;
    case "room.count-stopped":
      room.stage = GATHERING;
      clearDeadline(state.deadlines, "room-countdown", room.id);
      return;
    case "room.started":
      clearDeadline(state.deadlines, "room-countdown", room.id);
      clearDeadline(state.deadlines, "room-results", room.id);
      room.stage = travelling(room.stage, event);
      room.setback = event.moves === undefined ? null : room.setback;
      for (const member of room.members.values()) {
        member.swapWith = null;
        member.aboard = false;
      }
      return;
    case "room.playing":
      room.stage = playing(room, event.destination);
      if (room.policy.playMs > 0) setDeadline(state.deadlines, "room-play", room.id, at + room.policy.playMs);
      return;
    case "room.result-set":
      return setResult(state, room, event, at);
    case "room.gathered":
      clearDeadline(state.deadlines, "room-results", room.id);
      room.stage = GATHERING;
      return;
    case "room.returned":
      return giveBack(state, room, event, at);
    case "room.idle-asked":
    case "room.member-active":
      return;
    case "room.watched":
    case "room.unwatched":
    case "room.spectator-changed":
      return applyWatching(state, room, event);
    default:
      return applyMember(state, room, event satisfies MemberEvent, at);
  }
}

/** All rooms that gather have this in common. */
const GATHERING: Gathering = Object.freeze({ phase: "gathering" });

/** A run begins, from wherever the room is. */
const travelling = (from: Stage, { run, request, moves = 0 }: Of<"room.started">): Travelling => ({
  phase: "travelling",
  run,
  spread: request.spread,
  moves,
  cameFrom: from.phase === "results" ? "results" : "gathering",
});

/** The barrier has opened: only a room that travels gets anywhere. */
function playing({ id, stage }: Room, destination: Destination): Playing {
  if (stage.phase !== "travelling") throw new Error(`room ${id} arrives and is ${stage.phase}`);
  const { run, spread, moves } = stage;
  return { phase: "playing", run, spread, moves, destination };
}

/** Nobody is connected any more: every member of every room is away. */
export function markMembersAway(state: RoomsPart, at: number): void {
  for (const room of state.rooms.byId.values()) {
    const [members, spectators] = [markAway(state, room, at), spectatorsAway(room, at)];
    if (!members && !spectators) continue;
    reindex(state.rooms, room);
    touchRoom(state, room.id);
  }
}

/** Raises the revision of a room whose view an event has changed; one that has closed has none. */
export function touchRoom({ rooms }: RoomsPart, id: string): void {
  const room = rooms.byId.get(id);
  if (room) room.revision += 1;
}

/** Who has reached the place that the room goes to, or is not there any more. */
export function markAboard(state: RoomsPart, id: string, player: string, aboard: boolean): void {
  const member = state.rooms.byId.get(id)?.members.get(player);
  if (member) member.aboard = aboard;
}

/** The room goes to another place: whoever had arrived is on the way again. */
export function markAllAshore(state: RoomsPart, id: string): void {
  for (const member of state.rooms.byId.get(id)?.members.values() ?? []) member.aboard = false;
}

function roomOf(state: RoomsPart, id: string): Room {
  const room = state.rooms.byId.get(id);
  if (room === undefined) throw new Error(`event about unknown room ${id}`);
  return room;
}

function sharedPolicies({ rooms }: RoomsPart, policy: RoomPolicy): RoomPolicy {
  const text = JSON.stringify(policy);
  const known = rooms.policies.get(text);
  if (known) return known;
  const shared = Object.freeze({ ...policy });
  rooms.policies.set(text, shared);
  return shared;
}

type Founding = Of<"room.opened"> | Of<"room.set-up">;

function found(state: RoomsPart, event: Founding, host: PlayerId | null, at: number): Room {
  const { room: id, code, name, lobby, roomKind, capacity, build } = event;
  const policy = sharedPolicies(state, event.policy);
  const room: Room = {
    id,
    code,
    name,
    lobby,
    kind: roomKind,
    build,
    policy,
    capacity,
    visibility: event.visibility ?? "listed",
    ...(event.region !== undefined && { region: event.region }),
    ...(event.password !== undefined && { password: event.password }),
    settings: event.settings ?? {},
    settingsRevision: 0,
    banned: new Map(),
    reservations: new Map(),
    keptUntilMs: null,
    openedAtMs: at,
    revision: 0,
    stage: GATHERING,
    host,
    members: new Map(),
    spectators: new Map(),
    series: null,
    board: new Map(),
    turn: null,
    level: event.level ?? null,
    result: null,
    setback: null,
    indexed: null,
  };
  state.rooms.byId.set(id, room);
  state.rooms.byCode.set(code, id);
  state.rooms.opened = (event.codeNumber ?? state.rooms.opened) + 1;
  nameRoom(state.rooms, room);
  return room;
}

/** So many requests are remembered; the oldest are forgotten first. */
const REQUESTS_KEPT = 10_000;

function setUp(state: RoomsPart, event: Of<"room.set-up">, at: number): void {
  const { request, code, keptUntilMs } = event;
  const room = found(state, event, null, at);
  room.keptUntilMs = keptUntilMs;
  setDeadline(state.deadlines, "room-empty", room.id, keptUntilMs);
  reindex(state.rooms, room);
  if (request === undefined) return;
  const { requests } = state.rooms;
  requests.set(request.key, { room: room.id, code, fingerprint: request.fingerprint });
  if (requests.size > REQUESTS_KEPT) for (const [oldest] of requests) return void requests.delete(oldest);
}

function open(state: RoomsPart, event: Of<"room.opened">, at: number): void {
  const { host, hostName } = event;
  const room = found(state, event, host, at);
  const { side, role, latency, attributes } = event;
  seat(room, { id: host, name: hostName, place: 0, side, role, latency, attributes });
  for (const other of event.match?.others ?? [])
    seat(room, { ...other, side: other.side, role: other.role, latency: other.latency, attributes: other.attributes });
  if (event.match) for (const member of room.members.values()) member.ready = true;
  noteActivity(state, room, event, at);
  reindex(state.rooms, room);
}

function close(state: RoomsPart, event: Of<"room.closed">): void {
  const room = roomOf(state, event.room);
  takeOut(state.rooms, room);
  unnameRoom(state.rooms, room);
  state.rooms.byId.delete(event.room);
  state.rooms.byCode.delete(event.code);
  for (const kind of [
    "room-countdown",
    "room-results",
    "room-host",
    "room-turn",
    "room-empty",
    "room-play",
    "room-reservation",
    "room-idle",
  ] as const) {
    clearDeadline(state.deadlines, kind, event.room);
  }
}

function changeSettings(state: RoomsPart, room: Room, event: Of<"room.settings-changed">): void {
  const { name = room.name, capacity = room.capacity, visibility = room.visibility, settings = {} } = event;
  if (name !== room.name) rename(state.rooms, room, name);
  room.capacity = capacity;
  room.visibility = visibility;
  if (event.password === null) delete room.password;
  else if (event.password !== undefined) room.password = event.password;
  room.settingsRevision += 1;
  room.settings = patchSettings(room.settings, settings);
}

function rename(rooms: RoomsState, room: Room, name: string): void {
  unnameRoom(rooms, room);
  room.name = name;
  nameRoom(rooms, room);
}

function setResult(state: RoomsPart, room: Room, event: Of<"room.result-set">, at: number): void {
  const { run, standings, sides, payload, note, untilMs, next, series, swapped = [] } = event;
  const level = room.level?.id ?? "";
  room.result = {
    run,
    level,
    atMs: at,
    standings: [...standings],
    ...(sides && { sides: [...sides] }),
    ...(payload !== undefined && { payload }),
    ...(note !== undefined && { note }),
  };
  if (series) room.series = series;
  for (const { player, side } of swapped) memberOf(room, player).side = side;
  if (next) room.level = next;
  for (const member of room.members.values()) member.vote = null;
  endRun(state, room, untilMs);
  clearReady(room);
}

/** The travel or the run came to nothing. */
function giveBack(state: RoomsPart, room: Room, event: Of<"room.returned">, at: number): void {
  const { run, code, detail, kept, untilMs } = event;
  room.setback = { code, detail, atMs: at };
  if (event.void) room.result = { run, level: room.level?.id ?? "", atMs: at, standings: [], note: detail, void: true };
  endRun(state, room, untilMs);
  if (kept === undefined) return clearReady(room);
  for (const player of kept.but) memberOf(room, player).ready = false;
}

/** The results are shown until then, or it gathers at once. */
function endRun(state: RoomsPart, room: Room, untilMs: number | undefined): void {
  room.stage = untilMs === undefined ? GATHERING : { phase: "results", gathersAtMs: untilMs };
  clearDeadline(state.deadlines, "room-play", room.id);
  for (const member of room.members.values()) member.aboard = false;
  if (untilMs !== undefined) setDeadline(state.deadlines, "room-results", room.id, untilMs);
}

/** Sets the deadline of the present turn, or none. */
function timeTurn(state: RoomsPart, { id, turn }: Room): void {
  if (turn?.endsAtMs == null) clearDeadline(state.deadlines, "room-turn", id);
  else setDeadline(state.deadlines, "room-turn", id, turn.endsAtMs);
}
