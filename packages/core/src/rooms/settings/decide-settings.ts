import type { Revised } from "@yellow-harbor/protocol";
import {
  type LevelView,
  type PlayerArgs,
  type PlayerId,
  phaseWords,
  type RoomId,
  SETTINGS_MAX,
  type Settings,
  type SettingsPatch,
} from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../../model/decision.ts";
import { revisionReply, roomOf, unknownMember, unknownRoom, wrongPhase } from "../../model/find-room.ts";
import type { RoomCommand } from "../../model/rooms/commands.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import type { Room } from "../../model/rooms/state.ts";
import { nextHost } from "../entry/handover.ts";
import { changedSettings } from "./declared.ts";
import { levelView } from "./levels.ts";

type Change = PlayerArgs<"room.change"> | PlayerArgs<"room.pick-level">;

/** Name, capacity, visibility, level and free settings, as a merge patch. One made from what is no longer so is refused. */
export function change(context: RoomsContext, player: PlayerId, args: Change): Decision<Revised> {
  const found = roomOf(context.state, player, { hostOnly: "change the room" });
  if ("refused" in found) return found;
  return changeRoom(context, found.room, args, player);
}

/** The same of a room, by its host or an operator. */
export function changeRoom(context: RoomsContext, room: Room, args: Change, player?: PlayerId): Decision<Revised> {
  const { basedOn, level: levelName, variant, settings, ...others }: PlayerArgs<"room.change"> = args;
  if (basedOn !== undefined && basedOn !== room.settingsRevision) return stale(room, basedOn);
  const level = levelName === undefined ? undefined : levelOf(context, room, levelName);
  if (level !== undefined && "refused" in level) return level;
  const asking = { kind: room.kind, rules: context.rules.roomKinds.get(room.kind), isOperator: player === undefined };
  const changed = changedSettings(asking, { settings, variant });
  if ("refused" in changed) return changed;
  const wanted = { ...others, settings: changed.settings };
  const unfit = unfitCapacity(context, room, wanted.capacity) ?? unfitSettings(room, wanted.settings);
  if (unfit) return unfit;
  return accept([...settingsEvents(room, player, wanted), ...levelEvents(room, player, level)], {
    reply: revisionReply(room.id),
  });
}

type Wanted = Omit<PlayerArgs<"room.change">, "basedOn" | "level" | "variant">;

function settingsEvents(
  room: Room,
  by: PlayerId | undefined,
  { name, capacity, visibility, password, settings }: Wanted,
): RoomEvent[] {
  const patch = Object.fromEntries(
    Object.entries(settings ?? {}).filter(([key, value]) => (room.settings[key] ?? null) !== value),
  );
  const differs = Object.keys(patch).length > 0;
  const changed = {
    ...(name !== undefined && name !== room.name && { name }),
    ...(capacity !== undefined && capacity !== room.capacity && { capacity }),
    ...(visibility !== undefined && visibility !== room.visibility && { visibility }),
    ...(password !== undefined && password !== (room.password ?? null) && { password }),
    ...(differs && { settings: patch }),
  };
  if (Object.keys(changed).length === 0) return [];
  const unready = differs && room.policy.clearsReady.includes("settings") && { unready: true as const };
  return [{ kind: "room.settings-changed", room: room.id, ...(by !== undefined && { by }), ...changed, ...unready }];
}

function levelEvents(room: Room, by: PlayerId | undefined, level: LevelView | undefined): RoomEvent[] {
  if (level === undefined || level.id === room.level?.id) return [];
  const unready = room.policy.clearsReady.includes("level") && { unready: true as const };
  return [{ kind: "room.level-picked", room: room.id, ...(by !== undefined && { by }), level, ...unready }];
}

function stale(room: Room, basedOn: number): Refusal {
  const { name, capacity, visibility, settingsRevision, level, settings } = room;
  const now = `name ${name}, capacity ${capacity}, visibility ${visibility}, level ${level?.id ?? "not picked"}`;
  return refuse(
    "settings-stale",
    `The settings are at revision ${settingsRevision}, not ${basedOn}: ${now}. Look again, then change.`,
    { current: { settingsRevision, name, capacity, visibility, settings, ...(level && { level: level.id }) } },
  );
}

function levelOf(context: RoomsContext, room: Room, id: string): LevelView | Refusal {
  return room.stage.phase === "gathering" ? pickable(context, room, id) : wrongPhase(room);
}

/** A level that the host may pick, or why not. */
export const pickable = (context: RoomsContext, { kind, policy }: Room, id: string): LevelView | Refusal =>
  pickableIn(context, { kind, levelBy: policy.levelBy }, id);

/** A level that the host of a room of some kind may pick, or why not. */
export function pickableIn(
  { rules }: RoomsContext,
  room: { readonly kind: string; readonly levelBy: Room["policy"]["levelBy"] },
  id: string,
): LevelView | Refusal {
  if (room.levelBy !== "host") {
    const how = room.levelBy === "vote" ? "levels are voted for" : "levels follow one after the other";
    return refuse("level-not-yours", `In rooms of kind ${room.kind} ${how}; the host does not pick one.`);
  }
  const allowed = rules.roomKinds.get(room.kind)?.levels ?? [];
  const known = levelView(rules, id);
  if (known === undefined) {
    const detail = `There is no level ${id}; rooms of kind ${room.kind} have ${allowed.join(", ")}.`;
    return refuse("level-unknown", detail, { accepted: [...allowed] });
  }
  if (!allowed.includes(id)) {
    const detail = `Rooms of kind ${room.kind} do not have level ${id}; they have ${allowed.join(", ")}.`;
    return refuse("level-not-allowed", detail, { accepted: [...allowed] });
  }
  return known;
}

function unfitCapacity({ rules }: RoomsContext, room: Room, wanted: number | undefined): Refusal | undefined {
  if (wanted === undefined) return undefined;
  const say = (detail: string, expected: string) =>
    refuse("capacity-out-of-range", detail, { fields: [{ path: "args.capacity", message: expected }] });
  if (room.stage.phase !== "gathering") {
    const detail = `Room ${room.code} ${phaseWords[room.stage.phase]}; its capacity changes only while it is gathering.`;
    return refuse("wrong-phase", detail);
  }
  const { min = 1, max = 64 } = rules.roomKinds.get(room.kind)?.capacity ?? {};
  if (wanted < min || wanted > max) {
    return say(
      `Capacity ${wanted} is out of range: rooms of kind ${room.kind} take ${min} to ${max} players.`,
      `expected ${min} to ${max}`,
    );
  }
  // Places are stable: a member keeps its number, so the highest one taken counts, not only how many are in.
  const kept = room.members.size + room.reservations.size;
  if (room.reservations.size > 0 && wanted < kept) {
    const what = `${room.members.size} places are taken and ${room.reservations.size} kept for somebody`;
    return say(`Capacity ${wanted} is too small: ${what}.`, `expected at least ${kept}`);
  }
  const taken = Math.max(room.members.size, ...[...room.members.values()].map((member) => member.place + 1));
  if (wanted < taken) {
    return say(`Capacity ${wanted} is too small: places up to ${taken - 1} are taken.`, `expected at least ${taken}`);
  }
  return undefined;
}

function unfitSettings(room: Room, patch: SettingsPatch | undefined): Refusal | undefined {
  if (patch === undefined) return undefined;
  const count = Object.keys(patchSettings(room.settings, patch)).length;
  if (count <= SETTINGS_MAX) return undefined;
  const fields = [{ path: "args.settings", message: `expected at most ${SETTINGS_MAX} settings` }];
  return refuse("request-invalid", `The room would have ${count} settings; set some to null to remove them.`, {
    fields,
  });
}

/** A merge patch over the free settings (RFC 7396). */
export function patchSettings(settings: Settings, patch: SettingsPatch): Settings {
  const merged = { ...settings, ...patch };
  return Object.fromEntries(Object.entries(merged).filter(([, value]) => value !== null)) as Settings;
}

export function handOver(
  { state }: RoomsContext,
  player: PlayerId,
  { to }: PlayerArgs<"room.hand-over">,
): Decision<Revised> {
  const found = roomOf(state, player, { hostOnly: "hand over" });
  return "refused" in found ? found : giveTo(found.room, to, { by: player, cause: "given" });
}

export function operatorHandOver(
  { state }: RoomsContext,
  { room: id, to }: Extract<RoomCommand, { do: "room.operator-hand-over" }>,
): Decision<Revised> {
  const room = state.rooms.byId.get(id);
  return room === undefined ? unknownRoom(id) : giveTo(room, to, { cause: "operator" });
}

/** A host that is lost for longer than it keeps the powers loses them, as soon as somebody is here to take them. */
export function checkHost({ state, at }: RoomsContext, id: RoomId): Decision {
  const room = state.rooms.byId.get(id);
  const host = room?.members.get(room.host ?? "");
  if (room === undefined || host === undefined || host.awaySinceMs === null) return nothingToDo;
  if (at - host.awaySinceMs < room.policy.hostGraceMs) return nothingToDo;
  const next = nextHost(room, host.id);
  if (next === undefined || room.members.get(next)?.presence !== "here") return nothingToDo;
  return accept([{ kind: "room.host-changed", room: id, host: next, cause: "lost" }]);
}

function giveTo(room: Room, to: PlayerId, how: { by?: PlayerId; cause: "given" | "operator" }): Decision<Revised> {
  const member = room.members.get(to);
  if (member === undefined) return unknownMember(room, to);
  if (member.presence === "away") {
    return refuse("member-unknown", `${member.name} is away; hand over to somebody who is here.`);
  }
  if (room.host === to) return accept([], { reply: revisionReply(room.id) });
  return accept([{ kind: "room.host-changed", room: room.id, host: to, ...how }], { reply: revisionReply(room.id) });
}
