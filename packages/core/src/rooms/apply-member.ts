import type { LevelView, PlayerAttributes, PlayerId } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { Latency } from "../model/latency.ts";
import { ban } from "../model/rooms/bans.ts";
import type { RoomEvent } from "../model/rooms/events.ts";
import type { Member, Room } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { keep, without } from "./operated/kept-places.ts";

/** What happens to single members. */
export type MemberEvent = Extract<
  RoomEvent,
  {
    kind: `room.${
      | "joined"
      | "departed"
      | "member-away"
      | "member-back"
      | "measured"
      | "member-described"
      | "peers-measured"
      | "background-set"
      | "voted"
      | "ready-set"
      | "moved"
      | "swap-offered"
      | "swapped"
      | "balanced"}`;
  }
>;

export function applyMember(state: RoomsPart, room: Room, event: MemberEvent, at: number): void {
  switch (event.kind) {
    case "room.joined": {
      const { player: id, name, place, side, role, latency, attributes, host } = event;
      if (host !== undefined) room.host = host;
      if (event.build !== undefined) room.build = event.build;
      if (event.reserved) keep(state, room, without(room.reservations, event.reserved));
      room.keptUntilMs = null;
      clearDeadline(state.deadlines, "room-empty", room.id);
      return seat(room, { id, name, place, side, role, latency, attributes });
    }
    case "room.departed":
      return depart(state, room, event, at);
    case "room.member-away":
      return away(state, room, event, at);
    case "room.member-back":
      if (event.player === room.host) clearDeadline(state.deadlines, "room-host", room.id);
      return comeBack(memberOf(room, event.player));
    case "room.background-set":
      memberOf(room, event.player).attention = event.attention;
      return;
    case "room.voted":
      memberOf(room, event.player).vote = event.level;
      if (event.leads) pick(room, event.leads);
      return;
    case "room.member-described":
      memberOf(room, event.player).attributes = event.attributes;
      if (event.own) memberOf(room, event.player).own = event.own;
      return;
    case "room.peers-measured":
      memberOf(room, event.player).peersMs = event.peersMs;
      return;
    case "room.measured":
      memberOf(room, event.player).latency = event.latency;
      return;
    case "room.ready-set":
      memberOf(room, event.player).ready = event.ready;
      return;
    case "room.moved":
      return sitDown(memberOf(room, event.player), event);
    case "room.swap-offered":
      memberOf(room, event.player).swapWith = event.with;
      return;
    case "room.swapped": {
      const [one, other] = [memberOf(room, event.players[0]), memberOf(room, event.players[1])];
      const { place, side } = one;
      sitDown(one, other);
      sitDown(other, { place, side });
      one.swapWith = null;
      other.swapWith = null;
      return;
    }
    case "room.balanced":
      for (const { player, side } of event.moved) memberOf(room, player).side = side;
      return;
    default:
      assertNever(event);
  }
}

interface NewMember {
  readonly id: PlayerId;
  readonly name: string;
  readonly place: number;
  readonly side: string | undefined;
  readonly role: string | undefined;
  readonly latency: Latency | undefined;
  readonly attributes: PlayerAttributes | undefined;
}

export function seat(room: Room, { id, name, place, side, role, latency, attributes }: NewMember): void {
  room.members.set(id, {
    id,
    name,
    place,
    side: side ?? null,
    ...(role !== undefined && { role }),
    ...(attributes && { attributes }),
    latency: latency ?? null,
    ready: false,
    swapWith: null,
    presence: "here",
    awaySinceMs: null,
    awayUntilMs: null,
    attention: null,
    aboard: false,
    vote: null,
  });
}

function comeBack(member: Member): void {
  member.presence = "here";
  member.awaySinceMs = null;
  member.awayUntilMs = null;
  member.attention = null;
}

function sitDown(member: Member, { place, side }: Pick<Member, "place" | "side">): void {
  member.place = place;
  member.side = side;
}

/** The votes have another level lead. */
function pick(room: Room, level: LevelView): void {
  room.level = level;
  room.settingsRevision += 1;
}

export function clearReady(room: Room): void {
  for (const member of room.members.values()) member.ready = false;
}

export function memberOf(room: Room, id: string): Member {
  const member = room.members.get(id);
  if (member === undefined) throw new Error(`event about ${id}, who is not in room ${room.id}`);
  return member;
}

type Of<K extends MemberEvent["kind"]> = Extract<MemberEvent, { kind: K }>;

function depart(state: RoomsPart, room: Room, event: Of<"room.departed">, at: number): void {
  room.members.delete(event.player);
  if (event.host !== undefined) room.host = event.host;
  if (event.host !== undefined || room.members.size === 0) clearDeadline(state.deadlines, "room-host", room.id);
  if (event.ban) ban(room, event.player, state.players.byId.get(event.player));
  for (const key of event.gone ?? []) room.board.delete(key);
  for (const key of event.passed ?? []) {
    const entry = room.board.get(key);
    if (entry && room.host !== null) {
      entry.owner = room.host;
      entry.revision += 1;
    }
  }
  for (const id of event.voided ?? []) memberOf(room, id).swapWith = null;
  if (event.turn !== undefined) passTurn(state, room, event.turn);
  if (event.leads) pick(room, event.leads);
  if (room.members.size > 0) return;
  room.host = null;
  if (room.policy.emptyMs > 0) setDeadline(state.deadlines, "room-empty", room.id, at + room.policy.emptyMs);
}

function passTurn(state: RoomsPart, room: Room, next: NonNullable<Of<"room.departed">["turn"]> | null): void {
  room.turn = next === null || room.turn === null ? null : { ...room.turn, ...next, number: room.turn.number + 1 };
  clearDeadline(state.deadlines, "room-turn", room.id);
  if (next?.endsAtMs != null) setDeadline(state.deadlines, "room-turn", room.id, next.endsAtMs);
}

/** All members of a room are away. Returns whether any of them was not. */
export function markAway(state: RoomsPart, room: Room, at: number): boolean {
  let anybody = false;
  for (const { id, presence } of room.members.values()) {
    if (presence === "away") continue;
    away(state, room, { player: id, untilMs: at + room.policy.graceMs }, at);
    anybody = true;
  }
  return anybody;
}

function away(
  state: RoomsPart,
  room: Room,
  { player, untilMs }: Pick<Of<"room.member-away">, "player" | "untilMs">,
  at: number,
): void {
  const member = memberOf(room, player);
  member.presence = "away";
  member.awaySinceMs = at;
  member.awayUntilMs = untilMs;
  const powersUntilMs = at + room.policy.hostGraceMs;
  // When its place is given up first, the powers pass with that.
  if (player === room.host && powersUntilMs < untilMs)
    setDeadline(state.deadlines, "room-host", room.id, powersUntilMs);
}
