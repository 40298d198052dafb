import type { PlayerArgs, PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, refuse } from "../harbor/decision.ts";
import type { RoomCommand } from "./commands.ts";
import { type Refusal, revisionReply, roomOf } from "./find.ts";
import type { Room } from "./state.ts";

/** Name, capacity and visibility, as a partial change. A change made from settings that are no longer so is refused. */
export function change({ state, rules }: Moment, player: PlayerId, args: PlayerArgs<"room.change">): Decision {
  const found = roomOf(state, player, { hostOnly: "change the settings" });
  if ("refused" in found) return found;
  const { room } = found;
  const { basedOn, ...wanted } = args;
  if (basedOn !== undefined && basedOn !== room.settingsRevision) {
    const { name, capacity, visibility, settingsRevision } = room;
    const now = `name ${name}, capacity ${capacity}, visibility ${visibility}`;
    return refuse(
      "settings-stale",
      `The settings are at revision ${settingsRevision}, not ${basedOn}: ${now}. Look again, then change.`,
    );
  }
  const unfit =
    wanted.capacity === undefined
      ? undefined
      : unfitCapacity(room, wanted.capacity, rules.roomKinds.get(room.kind)?.capacity);
  if (unfit) return unfit;
  const changed = Object.fromEntries(
    Object.entries(wanted).filter(([key, value]) => value !== undefined && room[key as "name"] !== value),
  );
  if (Object.keys(changed).length === 0) return accept([], { reply: revisionReply(room.id) });
  return accept([{ kind: "room.settings-changed", room: room.id, by: player, ...changed }], {
    reply: revisionReply(room.id),
  });
}

function unfitCapacity(
  room: Room,
  wanted: number,
  range: { least: number; most: number } | undefined,
): Refusal | undefined {
  const say = (detail: string, expected: string) =>
    refuse("capacity-out-of-range", detail, { fields: [{ path: "args.capacity", message: expected }] }) as Refusal;
  if (room.phase !== "gathering") {
    return refuse(
      "wrong-phase",
      `Room ${room.code} is ${room.phase}; its capacity changes only while it is gathering.`,
    ) as Refusal;
  }
  const { least = 1, most = 64 } = range ?? {};
  if (wanted < least || wanted > most) {
    return say(
      `Capacity ${wanted} is out of range: rooms of kind ${room.kind} take ${least} to ${most} players.`,
      `expected ${least} to ${most}`,
    );
  }
  // Places are stable: a member keeps its number, so the highest one taken counts, not only how many are in.
  const taken = Math.max(room.members.size, ...[...room.members.values()].map((member) => member.place + 1));
  if (wanted < taken) {
    return say(`Capacity ${wanted} is too small: places up to ${taken - 1} are taken.`, `expected at least ${taken}`);
  }
  return undefined;
}

export function handOver({ state }: Moment, player: PlayerId, to: PlayerId): Decision {
  const found = roomOf(state, player, { hostOnly: "hand over" });
  return "refused" in found ? found : giveTo(found.room, to, player);
}

export function operatorHandOver(
  { state }: Moment,
  { room: id, to }: Extract<RoomCommand, { do: "room.operator-hand-over" }>,
): Decision {
  const room = state.rooms.byId.get(id);
  return room === undefined ? refuse("room-unknown", `There is no room ${id}; it may have closed.`) : giveTo(room, to);
}

function giveTo(room: Room, to: PlayerId, by?: PlayerId): Decision {
  const member = room.members.get(to);
  if (member === undefined) {
    return refuse(
      "member-unknown",
      `${to} is not in room ${room.code}; its members are ${[...room.members.keys()].join(", ")}.`,
    );
  }
  if (member.presence === "away")
    return refuse("member-unknown", `${member.name} is away; hand over to somebody who is here.`);
  if (room.host === to) return accept([], { reply: revisionReply(room.id) });
  const event = { kind: "room.host-changed", room: room.id, host: to } as const;
  return accept([by === undefined ? event : { ...event, by }], { reply: revisionReply(room.id) });
}
