import type { PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, refuse } from "../harbor/decision.ts";
import { newId } from "../harbor/stamp.ts";
import type { TravelOrder } from "./events.ts";
import { missingToStart } from "./explain.ts";
import { gatheringRoomOf, revisionReply } from "./find.ts";
import type { Room } from "./state.ts";

export function pickLevel({ state, rules }: Moment, player: PlayerId, level: string): Decision {
  const found = gatheringRoomOf(state, player, { hostOnly: "pick the level" });
  if ("refused" in found) return found;
  const { room } = found;
  const allowed = rules.roomKinds.get(room.kind)?.levels ?? [];
  const known = rules.levels.get(level);
  if (known === undefined) {
    const detail = `There is no level ${level}; rooms of kind ${room.kind} have ${allowed.join(", ")}.`;
    return refuse("level-unknown", detail, { accepted: [...allowed] });
  }
  if (!allowed.includes(level)) {
    const detail = `Rooms of kind ${room.kind} do not have level ${level}; they have ${allowed.join(", ")}.`;
    return refuse("level-not-allowed", detail, { accepted: [...allowed] });
  }
  const { title, least, most } = known;
  return acceptInRoom(room, {
    kind: "room.level-picked",
    room: room.id,
    by: player,
    level: { id: level, title, least, most },
  });
}

export function setReady({ state }: Moment, player: PlayerId, ready: boolean): Decision {
  const found = gatheringRoomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  if (member.ready === ready) return accept([], { reply: revisionReply(room.id) });
  return acceptInRoom(room, { kind: "room.ready-set", room: room.id, player, ready });
}

export function start({ state, rules, chance }: Moment, player: PlayerId): Decision {
  const found = gatheringRoomOf(state, player, { hostOnly: "start" });
  if ("refused" in found) return found;
  const { room } = found;
  const missing = missingToStart(room);
  const level = room.level;
  if (missing.length > 0 || level === null) {
    const reasons = missing.map((row) => row.text).join("; ");
    return refuse("start-not-possible", `Cannot start: ${reasons}.`, { missing });
  }
  const pool = rules.levels.get(level.id)?.pool;
  if (pool === undefined) {
    return refuse("level-unknown", `Level ${level.id} was taken out of the configuration; pick another.`);
  }
  const members = [...room.members.values()].map(({ id, name, place }) => ({ id, name, place }));
  const order: TravelOrder = { pool, level, members };
  return acceptInRoom(room, { kind: "room.started", room: room.id, run: newId("u", chance), order });
}

type RoomChange = Extract<Decision, { events: unknown }>["events"][number];

const acceptInRoom = (room: Room, event: RoomChange) => accept([event], { reply: revisionReply(room.id) });
