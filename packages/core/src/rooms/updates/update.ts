import type { LevelView, Patch, RoomUpdate } from "@yellow-harbor/protocol";
import { ownerOf } from "../../model/find-player.ts";
import { type Delivery, toOne } from "../../model/push.ts";
import { recordOf } from "../../model/record.ts";
import { hearsEnds, hearsInvitation } from "../../model/relations/known.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { audienceOf, type Room, runOf } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { travel } from "../../travel/index.ts";
import type { MemberEvent } from "../apply-member.ts";
import { invitationView } from "../inviting/invitations.ts";
import { seriesView } from "../results/series.ts";
import { entryView } from "../settings/board.ts";
import { missingToStart } from "../start/explain.ts";
import { reservedView, resultView, roomView, turnView } from "../view.ts";
import { watchingUpdate } from "../watching/spectators.ts";
import { membersPatch, memberUpdate } from "./update-member.ts";
import type { UpdateAndPatch } from "./update-patch.ts";

/** What the members have to be told about an event, from the state after it. */
export function roomPushes(state: RoomsPart, event: RoomEvent): Delivery[] {
  const room = state.rooms.byId.get(event.room);
  // A closed room is gone; it closes only once empty, so nobody is left to tell but the operators.
  if (room === undefined) return [closedPush(event)];
  // Who was matched did not ask for this room, and is given the view of it.
  if (event.kind === "room.opened" && event.match) {
    const view = roomView(state, room);
    return [...room.members.keys()].map((to) => toOne(to, { kind: "into-room", room: view }));
  }
  const { update, patch } = updatesOf(state, room, event);
  // Who the change brings in gets the complete view instead; so does who comes back.
  const apart = hasWhole(event) ? event.player : undefined;
  // Who only changes between playing and looking on holds the state already, and must miss nothing of it.
  const staying = isStaying(event) ? [event.player] : [];
  const to = [...audienceOf(room).filter((player) => player !== apart), ...staying];
  const own = invitationPush(state, room, event);
  const joined =
    event.kind === "room.joined" && (event.match !== undefined || event.by !== undefined || event.with !== undefined);
  return [
    // Who did not ask for this room has no reply with the view.
    ...(joined && apart !== undefined ? [toOne(apart, { kind: "into-room", room: roomView(state, room) })] : []),
    { scope: "room", id: room.id, to: event.kind === "room.opened" ? [] : to, revision: room.revision, update, patch },
    ...(own ? [own] : []),
  ];
}

type Staying = Extract<RoomEvent, { kind: "room.departed" | "room.unwatched" }>;

const isStaying = (event: RoomEvent): event is Staying =>
  (event.kind === "room.departed" && event.watches === true) ||
  (event.kind === "room.unwatched" && event.reason === "joined");

type HasWhole = Extract<
  RoomEvent,
  { kind: "room.joined" | "room.member-back" | "room.watched" | "room.spectator-changed" }
>;

const hasWhole = (event: RoomEvent): event is HasWhole =>
  (event.kind === "room.joined" && !event.watched) ||
  event.kind === "room.member-back" ||
  (event.kind === "room.watched" && !event.wasMember) ||
  (event.kind === "room.spectator-changed" && event.presence === "here");

/** What whoever a place is kept for hears of it, unless it wants to hear nothing. */
function invitationPush(state: RoomsPart, room: Room, event: RoomEvent): Delivery | undefined {
  if (event.kind === "room.place-reserved") {
    const owner = ownerOf(state, event.for);
    if (owner === undefined || !hearsInvitation(state, owner, event.by?.id)) return undefined;
    return toOne(owner.id, { kind: "invited", invitation: invitationView(room, event) });
  }
  const ended = event.kind === "room.reservation-ended" ? event.for : undefined;
  const joined = event.kind === "room.joined" ? event.reserved : undefined;
  const owner = ownerOf(state, ended ?? joined ?? { player: "" });
  if (owner === undefined || !hearsEnds(owner)) return undefined;
  const cause = event.kind === "room.reservation-ended" ? event.cause : "joined";
  return toOne(owner.id, { kind: "invitation-ended", room: room.id, cause });
}

function closedPush(event: RoomEvent): Delivery {
  const patch = { phase: "closed", host: null };
  return { scope: "room", id: event.room, to: [], revision: 0, update: { kind: "room-closed" }, patch };
}

function updatesOf(state: RoomsPart, room: Room, event: RoomEvent): UpdateAndPatch {
  const missing = missingToStart(room);
  switch (event.kind) {
    case "room.opened":
      return { update: { kind: "room-opened" }, patch: {} };
    case "room.set-up":
      return { update: { kind: "room-opened" }, patch: {} };
    case "room.place-reserved":
    case "room.reservation-ended":
      return { update: { kind: "reservations-changed" }, patch: reservedPatch(room) };
    case "room.idle-asked": {
      const { player, untilMs } = event;
      return { update: { kind: "member-asked", player, untilMs }, patch: {} };
    }
    case "room.member-active":
      return { update: { kind: "member-active", player: event.player }, patch: {} };
    case "room.watched":
    case "room.unwatched":
    case "room.spectator-changed":
      return watchingUpdate(room, event);
    case "room.settings-changed": {
      const { name, capacity, visibility, settingsRevision } = room;
      const settings = event.settings && { settings: event.settings };
      const secret = event.password === undefined ? {} : { hasPassword: event.password === null ? null : true };
      const patch = { name, capacity, visibility, settingsRevision, ...secret, ...settings, ...unsettled(room, event) };
      return { update: { kind: "settings-changed", ...(event.by && { by: event.by }) }, patch };
    }
    case "room.banned":
    case "room.unbanned": {
      const { player, kind } = event;
      const update: RoomUpdate = { kind: "ban-changed", player, banned: kind === "room.banned" };
      return { update, patch: { banned: [...room.banned.keys()] } };
    }
    case "room.board-set":
    case "room.board-removed": {
      const { key, by } = event;
      return {
        update: { kind: "board-changed", key, by, removed: !room.board.has(key) },
        patch: boardPatch(room, [key]),
      };
    }
    case "room.echo-told":
      return { update: { kind: "echo-told", player: event.player }, patch: {} };
    case "room.host-changed": {
      const { host, by, cause = by === undefined ? "operator" : "given" } = event;
      return { update: { kind: "host-changed", host, cause, ...(by && { by }) }, patch: { host } };
    }
    case "room.turn-passed": {
      const { holder, cause, by } = event;
      return { update: { kind: "turn-passed", holder, cause, ...(by && { by }) }, patch: turnPatch(room) };
    }
    case "room.turns-ended":
      return { update: { kind: "turns-ended", ...(event.by && { by: event.by }) }, patch: { turn: null } };
    case "room.level-picked": {
      const { by, level } = event;
      const patch = {
        level: levelPatch(level),
        settingsRevision: room.settingsRevision,
        missing,
        ...unsettled(room, event),
      };
      return { update: { kind: "level-picked", ...(by && { by }), level }, patch };
    }
    case "room.counting": {
      const { startsAtMs } = event;
      return {
        update: { kind: "counting", startsAtMs },
        patch: { phase: "counting", startsAtMs, setback: null, missing },
      };
    }
    case "room.count-stopped":
      return {
        update: { kind: "count-stopped", why: event.why },
        patch: { phase: "gathering", startsAtMs: null, missing },
      };
    case "room.started": {
      const { run, request } = event;
      const members = membersPatch(room, () => ({ swapWith: null, aboard: null }));
      const times = { startsAtMs: null, gathersAtMs: null };
      const { setback } = room;
      const patch = { phase: "travelling", ...times, run, members, missing, setback, destination: null };
      return { update: { kind: "started", run, level: request.level }, patch };
    }
    case "room.playing": {
      const { run, destination } = event;
      const patch = { phase: "playing", destination: travel.views.destination(destination, room), missing };
      return { update: { kind: "playing", run }, patch };
    }
    case "room.result-set": {
      const until = gathersAt(room) !== null && { gathersAtMs: gathersAt(room) };
      const next = event.next && { level: levelPatch(event.next) };
      const series = seriesView(room);
      const patch = {
        ...runOver(room, event),
        ...until,
        ...next,
        result: resultPatch(room),
        missing,
        ...(series && { series }),
      };
      return { update: { kind: "result", run: event.run }, patch };
    }
    case "room.gathered": {
      const patch = { phase: "gathering", gathersAtMs: null, missing };
      return { update: { kind: "gathering", ...(event.by && { by: event.by }) }, patch };
    }
    case "room.returned": {
      const { run, code, detail } = event;
      const { setback } = room;
      const patch = {
        ...runOver(room),
        setback,
        gathersAtMs: gathersAt(room),
        ...(event.void && { result: resultPatch(room) }),
        missing,
      };
      return { update: { kind: "returned", run, code, detail }, patch };
    }
    case "room.closed":
      throw new Error("a closed room is not in the state");
    default:
      return tellMembers(state, room, event, missing);
  }
}

/** Events of members that no start depends on. */
const NEVER_MISSING = new Set<MemberEvent["kind"]>(["room.measured", "room.swap-offered", "room.background-set"]);

/** Events of members after which a barrier may wait for others. */
const TELLS_OF_WAITING = new Set<MemberEvent["kind"]>([
  "room.departed",
  "room.member-away",
  "room.member-back",
  "room.background-set",
]);

function tellMembers(state: RoomsPart, room: Room, event: MemberEvent, missing: unknown): UpdateAndPatch {
  const { update, patch } = memberUpdate(room, event);
  if (event.kind === "room.joined") {
    const { reserved, build } = event;
    const own = { ...(reserved && reservedPatch(room)), ...(build !== undefined && { build }) };
    return { update, patch: { ...patch, ...own, missing } };
  }
  const more =
    event.kind === "room.departed"
      ? {
          ...boardPatch(room, [...(event.gone ?? []), ...(event.passed ?? [])]),
          ...(event.turn !== undefined && turnPatch(room)),
          ...(event.ban && { banned: [...room.banned.keys()] }),
        }
      : {};
  const waiting = TELLS_OF_WAITING.has(event.kind) ? travel.views.waitingPatch(state, runOf(room)) : {};
  const { leads } = event as { leads?: LevelView };
  const picked = leads && { level: levelPatch(leads), settingsRevision: room.settingsRevision };
  return {
    update,
    patch: { ...patch, ...more, ...waiting, ...picked, ...(!NEVER_MISSING.has(event.kind) && { missing }) },
  };
}

/** The whole result: what the one before had and this one has not is removed. */
const resultPatch = (room: Room): Patch | null =>
  room.result && { note: null, void: null, sides: null, payload: null, ...resultView(room, room.result) };

/** The whole level: what another had and this one has not is removed. */
const levelPatch = (level: LevelView): Patch => ({ attributes: null, ...level });

/** After a change that clears readiness: nobody is ready any more. */
function unsettled(room: Room, { unready }: { readonly unready?: true }): Patch {
  return unready ? { members: membersPatch(room, () => ({ ready: false })), missing: missingToStart(room) } : {};
}

/** The entries as they are now; null for those that are gone. */
function boardPatch(room: Room, keys: readonly string[]): Patch {
  if (keys.length === 0) return {};
  const entry = (key: string) => {
    const found = room.board.get(key);
    return found === undefined ? null : entryView(found);
  };
  return { board: recordOf(keys.map((key) => [key, entry(key)])) };
}

const reservedPatch = (room: Room): Patch => ({ reserved: room.reservations.size > 0 ? reservedView(room) : null });

const turnPatch = ({ turn }: Room): Patch => ({
  turn: turn === null ? null : { endsAtMs: null, ...turnView(turn) },
});

const gathersAt = ({ stage }: Room): number | null => (stage.phase === "results" ? stage.gathersAtMs : null);

function runOver(room: Room, { swapped }: { readonly swapped?: unknown } = {}): Patch {
  const members = membersPatch(room, ({ ready, vote, side }) => ({
    ready,
    vote,
    aboard: null,
    ...(swapped !== undefined && { side }),
  }));
  return { phase: room.stage.phase, run: null, destination: null, travel: null, members };
}
