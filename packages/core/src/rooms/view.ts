import type { MemberView, Patch, RoomListing, RoomNews, RoomView } from "@yellow-harbor/protocol";
import { assertNever } from "../harbor/decision.ts";
import type { Push } from "../harbor/push.ts";
import type { HarborState } from "../harbor/state.ts";
import { travelView } from "../travel/index.ts";
import { entryView } from "./board.ts";
import type { RoomEvent } from "./events.ts";
import { missingToStart } from "./explain.ts";
import type { Member, Room } from "./state.ts";

export function memberView(member: Member): MemberView {
  const { id, name, place, ready, presence, awayUntilMs } = member;
  return { id, name, place, ready, presence, ...(awayUntilMs !== null && { awayUntilMs }) };
}

/** The complete picture of a room. What is absent is left out: in a merge patch `null` means "remove". */
export function roomView(state: HarborState, room: Room): RoomView {
  const travel = travelView(state, room.run);
  return {
    id: room.id,
    code: room.code,
    name: room.name,
    lobby: room.lobby,
    kind: room.kind,
    capacity: room.capacity,
    visibility: room.visibility,
    settingsRevision: room.settingsRevision,
    revision: room.revision,
    phase: room.phase,
    host: room.host,
    ...(room.level && { level: room.level }),
    members: Object.fromEntries([...room.members.values()].map((member) => [member.id, memberView(member)])),
    board: Object.fromEntries([...room.board].map(([key, entry]) => [key, entryView(entry)])),
    missing: missingToStart(room),
    ...(room.startsAtMs !== null && { startsAtMs: room.startsAtMs }),
    ...(room.run && { run: room.run }),
    ...(travel && { travel }),
    ...(room.destination && { destination: room.destination }),
    ...(room.result && { result: room.result }),
    ...(room.setback && { setback: room.setback }),
    openedAtMs: room.openedAtMs,
  };
}

export function roomListing(room: Room): RoomListing {
  return {
    id: room.id,
    code: room.code,
    name: room.name,
    kind: room.kind,
    host: room.members.get(room.host)?.name ?? "",
    phase: room.phase,
    ...(room.level && { level: room.level }),
    members: room.members.size,
    capacity: room.capacity,
    openedAtMs: room.openedAtMs,
  };
}

/** What the members have to be told about an event, from the state after it. */
export function roomPushes(state: HarborState, event: RoomEvent): Push[] {
  const room = state.rooms.byId.get(event.room);
  // A closed room is gone; it closes only once empty, so nobody is left to tell but the operators.
  if (room === undefined) return [closedPush(event)];
  const { news, patch } = newsOf(room, event);
  // Who the change brings in gets the complete picture instead; so does who comes back.
  const apart = event.kind === "room.joined" || event.kind === "room.member-back" ? event.player : undefined;
  const to = [...room.members.keys()].filter((player) => player !== apart);
  return [
    { scope: "room", id: room.id, to: event.kind === "room.opened" ? [] : to, revision: room.revision, news, patch },
  ];
}

function closedPush(event: RoomEvent): Push {
  const patch = { phase: "closed", host: null };
  return { scope: "room", id: event.room, to: [], revision: 0, news: { kind: "room-closed" }, patch };
}

function newsOf(room: Room, event: RoomEvent): { news: RoomNews; patch: Patch } {
  const missing = missingToStart(room);
  switch (event.kind) {
    case "room.opened":
      return { news: { kind: "room-opened" }, patch: {} };
    case "room.joined": {
      const { player, name } = event;
      return { news: { kind: "member-joined", player, name }, patch: { members: memberPatch(room, player), missing } };
    }
    case "room.departed": {
      const { player, reason, why, host } = event;
      const news: RoomNews = { kind: "member-left", player, reason, ...(why && { why }), ...(host && { host }) };
      const board = boardPatch(room, [...(event.gone ?? []), ...(event.passed ?? [])]);
      return { news, patch: { members: { [player]: null }, missing, ...board, ...(host && { host }) } };
    }
    case "room.member-away": {
      const members = { [event.player]: { presence: "away", awayUntilMs: event.untilMs } };
      return { news: { kind: "member-away", player: event.player }, patch: { members, missing } };
    }
    case "room.member-back": {
      const members = { [event.player]: { presence: "here", awayUntilMs: null } };
      return { news: { kind: "member-back", player: event.player }, patch: { members, missing } };
    }
    case "room.settings-changed": {
      const { name, capacity, visibility, settingsRevision } = room;
      return {
        news: { kind: "settings-changed", by: event.by },
        patch: { name, capacity, visibility, settingsRevision },
      };
    }
    case "room.board-written":
    case "room.board-erased": {
      const { key, by } = event;
      return {
        news: { kind: "board-changed", key, by, removed: !room.board.has(key) },
        patch: boardPatch(room, [key]),
      };
    }
    case "room.host-changed": {
      const { host, by } = event;
      return { news: { kind: "host-changed", host, ...(by && { by }) }, patch: { host } };
    }
    case "room.level-picked":
      return {
        news: { kind: "level-picked", by: event.by, level: event.level },
        patch: { level: event.level, missing },
      };
    case "room.ready-set": {
      const { player, ready } = event;
      return { news: { kind: "ready-changed", player, ready }, patch: { members: { [player]: { ready } }, missing } };
    }
    case "room.counting": {
      const { startsAtMs } = event;
      return {
        news: { kind: "counting", startsAtMs },
        patch: { phase: "counting", startsAtMs, setback: null, missing },
      };
    }
    case "room.count-stopped":
      return {
        news: { kind: "count-stopped", why: event.why },
        patch: { phase: "gathering", startsAtMs: null, missing },
      };
    case "room.started": {
      const { run, order } = event;
      const patch = { phase: "travelling", startsAtMs: null, run, missing, setback: null, destination: null };
      return { news: { kind: "started", run, level: order.level }, patch };
    }
    case "room.playing": {
      const { run, instance, address } = event;
      const patch = { phase: "playing", destination: { instance, address }, missing };
      return { news: { kind: "playing", run }, patch };
    }
    case "room.result-set": {
      const patch = { ...backToGathering(room), result: room.result };
      return { news: { kind: "result", run: event.run }, patch: { ...patch, missing } };
    }
    case "room.returned": {
      const { run, code, detail } = event;
      const patch = { ...backToGathering(room), setback: room.setback, missing };
      return { news: { kind: "returned", run, code, detail }, patch };
    }
    case "room.closed":
      throw new Error("a closed room is not in the state");
    default:
      return assertNever(event);
  }
}

/** The entries as they are now; null for those that are gone. */
function boardPatch(room: Room, keys: readonly string[]): Patch {
  if (keys.length === 0) return {};
  const entry = (key: string) => {
    const found = room.board.get(key);
    return found === undefined ? null : entryView(found);
  };
  return { board: Object.fromEntries(keys.map((key) => [key, entry(key)])) };
}

function backToGathering(room: Room): Patch {
  const members = Object.fromEntries([...room.members.keys()].map((player) => [player, { ready: false }]));
  return { phase: "gathering", run: null, destination: null, travel: null, members };
}

function memberPatch(room: Room, player: string): Patch {
  const member = room.members.get(player);
  return member === undefined ? {} : { [player]: memberView(member) };
}
