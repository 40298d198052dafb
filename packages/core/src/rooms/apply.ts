import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import { addRoomToLobby, countInRooms, removeRoomFromLobby } from "../lobbies/index.ts";
import type { RoomEvent } from "./events.ts";
import type { Member, Room } from "./state.ts";

type Of<K extends RoomEvent["kind"]> = Extract<RoomEvent, { kind: K }>;

export function applyRoom(state: HarborState, event: RoomEvent, at: number): void {
  if (event.kind === "room.opened") return open(state, event, at);
  if (event.kind === "room.closed") return close(state, event);
  const room = roomOf(state, event.room);
  switch (event.kind) {
    case "room.joined":
      return seat(state, room, { id: event.player, name: event.name, place: event.place });
    case "room.departed":
      return depart(state, room, event);
    case "room.member-away":
      Object.assign(memberOf(room, event.player), { presence: "away", awayUntilMs: event.untilMs });
      return;
    case "room.member-back":
      Object.assign(memberOf(room, event.player), { presence: "here", awayUntilMs: null });
      return;
    case "room.settings-changed": {
      const { name = room.name, capacity = room.capacity, visibility = room.visibility } = event;
      Object.assign(room, { name, capacity, visibility, settingsRevision: room.settingsRevision + 1 });
      return;
    }
    case "room.board-written": {
      const { key, value, size, owner, onLeave } = event;
      const revision = (room.board.get(key)?.revision ?? 0) + 1;
      room.board.set(key, { value, size, owner, onLeave, revision });
      return;
    }
    case "room.board-erased":
      room.board.delete(event.key);
      return;
    case "room.host-changed":
      room.host = event.host;
      return;
    case "room.level-picked":
      room.level = event.level;
      return;
    case "room.ready-set":
      memberOf(room, event.player).ready = event.ready;
      return;
    case "room.counting":
      Object.assign(room, { phase: "counting", startsAtMs: event.startsAtMs, setback: null });
      setDeadline(state.deadlines, "room-countdown", room.id, event.startsAtMs);
      return;
    case "room.count-stopped":
      Object.assign(room, { phase: "gathering", startsAtMs: null });
      clearDeadline(state.deadlines, "room-countdown", room.id);
      return;
    case "room.started":
      clearDeadline(state.deadlines, "room-countdown", room.id);
      Object.assign(room, { phase: "travelling", startsAtMs: null, run: event.run, setback: null, destination: null });
      return;
    case "room.playing":
      Object.assign(room, { phase: "playing", destination: { instance: event.instance, address: event.address } });
      return;
    case "room.result-set": {
      const { run, standings, note } = event;
      const level = room.level?.id ?? "";
      room.result = { run, level, atMs: at, standings: [...standings], ...(note !== undefined && { note }) };
      return gatherAgain(room);
    }
    case "room.returned":
      room.setback = { code: event.code, detail: event.detail, atMs: at };
      return gatherAgain(room);
    default:
      assertNever(event);
  }
}

/** Raises the revision of the room whose picture an event changes. */
export function touchRoom(state: HarborState, id: string): void {
  roomOf(state, id).revision += 1;
}

function roomOf(state: HarborState, id: string): Room {
  const room = state.rooms.byId.get(id);
  if (room === undefined) throw new Error(`event about unknown room ${id}`);
  return room;
}

function open(state: HarborState, event: Of<"room.opened">, at: number): void {
  const { room: id, code, name, lobby, roomKind, capacity, leastPlayers, graceMs, host, hostName } = event;
  const { countdownMs, autoStart } = event;
  const room: Room = {
    ...{
      id,
      code,
      name,
      lobby,
      kind: roomKind,
      capacity,
      leastPlayers,
      graceMs,
      countdownMs,
      autoStart,
      host,
      openedAtMs: at,
    },
    revision: 0,
    visibility: "listed",
    settingsRevision: 0,
    banned: new Set(),
    board: new Map(),
    phase: "gathering",
    startsAtMs: null,
    members: new Map(),
    level: null,
    run: null,
    destination: null,
    result: null,
    setback: null,
  };
  state.rooms.byId.set(id, room);
  state.rooms.byCode.set(code, id);
  state.rooms.opened += 1;
  addRoomToLobby(state, lobby, id);
  seat(state, room, { id: host, name: hostName, place: 0 });
}

function close(state: HarborState, event: Of<"room.closed">): void {
  state.rooms.byId.delete(event.room);
  state.rooms.byCode.delete(event.code);
  clearDeadline(state.deadlines, "room-countdown", event.room);
  removeRoomFromLobby(state, event.lobby, event.room);
}

function seat(state: HarborState, room: Room, who: Pick<Member, "id" | "name" | "place">): void {
  room.members.set(who.id, { ...who, ready: false, presence: "here", awayUntilMs: null });
  countInRooms(state, room.lobby, 1);
  const player = state.players.byId.get(who.id);
  if (player) player.room = room.id;
}

function depart(state: HarborState, room: Room, event: Of<"room.departed">): void {
  room.members.delete(event.player);
  countInRooms(state, room.lobby, -1);
  if (event.host !== undefined) room.host = event.host;
  if (event.ban) room.banned.add(event.player);
  for (const key of event.gone ?? []) room.board.delete(key);
  for (const key of event.passed ?? []) {
    const entry = room.board.get(key);
    if (entry) Object.assign(entry, { owner: room.host, revision: entry.revision + 1 });
  }
  const player = state.players.byId.get(event.player);
  if (player) player.room = null;
}

function gatherAgain(room: Room): void {
  Object.assign(room, { phase: "gathering", run: null, destination: null });
  for (const member of room.members.values()) member.ready = false;
}

function memberOf(room: Room, id: string): Member {
  const member = room.members.get(id);
  if (member === undefined) throw new Error(`event about ${id}, who is not in room ${room.id}`);
  return member;
}
