import type { Missing, RoomExplanation } from "@yellow-harbor/protocol";
import type { HarborState } from "../harbor/state.ts";
import { explainTravel } from "../travel/index.ts";
import type { Room } from "./state.ts";

/** What a room still needs before it can start, the most basic first; empty once it has. */
export function missingToStart(room: Room): Missing[] {
  if (room.phase !== "gathering" && room.phase !== "counting") return [];
  const missing: Missing[] = [];
  const { level, members } = room;
  if (level === null) missing.push({ code: "level", text: "the host has not picked a level" });
  const needed = Math.max(room.leastPlayers, level?.least ?? 0) - members.size;
  if (needed > 0) missing.push({ code: "players", needed, text: `needs ${needed} more ${plural(needed, "player")}` });
  const over = level === null ? 0 : members.size - level.most;
  if (over > 0)
    missing.push({ code: "too-many", over, text: `has ${over} ${plural(over, "player")} too many for ${level?.id}` });
  for (const { id, name, presence, ready } of members.values()) {
    if (presence === "away") missing.push({ code: "away", player: id, text: `${name} is away` });
    else if (!ready) missing.push({ code: "ready", player: id, text: `${name} is not ready` });
  }
  return missing;
}

/** Why the room can or cannot start now, or what it waits for, as data and in sentences. */
export function explainRoom(state: HarborState, room: Room, at: number): RoomExplanation {
  const missing = missingToStart(room);
  return {
    room: room.id,
    phase: room.phase,
    canStart: room.phase === "gathering" && missing.length === 0,
    missing,
    text: sentences(state, room, missing, at),
  };
}

function sentences(state: HarborState, room: Room, missing: readonly Missing[], at: number): string[] {
  const setback = room.setback === null ? [] : [`The last start came to nothing: ${room.setback.detail}`];
  const host = room.members.get(room.host)?.name ?? room.host;
  switch (room.phase) {
    case "gathering":
      return missing.length === 0
        ? [`Everything is there; ${host}, the host, can start.`, ...setback]
        : [...missing.map((row) => `Cannot start: ${row.text}.`), ...setback];
    case "counting":
      return [
        `Everything is there; the travel starts in ${Math.max(0, Math.round(((room.startsAtMs ?? at) - at) / 1000))} s unless something changes.`,
      ];
    case "travelling":
      return explainTravel(state, room.run, at);
    case "playing":
      return [
        `A run on ${room.level?.id} is under way on ${room.destination?.instance}; it ends when the instance reports the result.`,
      ];
  }
}

const plural = (count: number, word: string) => (count === 1 ? word : `${word}s`);
