import type { PlayerId } from "@yellow-harbor/protocol";
import { accept, type Decision, type Moment, refuse } from "../harbor/decision.ts";
import { gatheringRoomOf, revisionReply, roomOf, wrongPhase } from "./find.ts";
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
  // Also while counting: a member who takes its word back stops the count.
  const found = roomOf(state, player);
  if ("refused" in found) return found;
  const { room, member } = found;
  if (room.phase !== "gathering" && room.phase !== "counting") return wrongPhase(room);
  if (member.ready === ready) return accept([], { reply: revisionReply(room.id) });
  return acceptInRoom(room, { kind: "room.ready-set", room: room.id, player, ready });
}

type RoomChange = Extract<Decision, { events: unknown }>["events"][number];

const acceptInRoom = (room: Room, event: RoomChange) => accept([event], { reply: revisionReply(room.id) });
