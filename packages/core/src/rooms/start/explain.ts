import { counted, type Missing, type RoomExplanation } from "@yellow-harbor/protocol";
import { hostName } from "../../model/find-room.ts";
import { sideSizes, sidesApart } from "../../model/rooms/sides.ts";
import type { Playing, Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { travel } from "../../travel/index.ts";

/** What a room still needs before it can start, the most basic first; empty once it has. */
export function missingToStart(room: Room): Missing[] {
  return room.stage.phase === "gathering" || room.stage.phase === "counting" ? shortcomings(room) : [];
}

/** The same whatever the phase. */
export function shortcomings(room: Room): Missing[] {
  const missing: Missing[] = [];
  const { level, policy } = room;
  const members = [...room.members.values()];
  // Where not everybody's word is needed, whoever is away stays behind and does not count.
  const going = policy.readiness === "all" ? members : members.filter(({ presence }) => presence === "here");
  if (level === null) missing.push({ code: "level", text: "the host has not picked a level" });
  const needed = Math.max(policy.minPlayers, level?.min ?? 0) - going.length;
  if (needed > 0) missing.push({ code: "players", needed, text: `needs ${counted(needed, "more player")}` });
  const over = level === null ? 0 : going.length - level.max;
  if (over > 0)
    missing.push({ code: "too-many", over, text: `has ${counted(over, "player")} too many for ${level?.id}` });
  const max = policy.sides?.apart ?? null;
  const apart = max === null ? 0 : sidesApart(room);
  if (max !== null && apart > max) {
    const sizes = [...sideSizes(room)].map(([name, size]) => `${name} has ${size}`).join(", ");
    missing.push({ code: "sides", apart, text: `the sides are uneven: ${sizes}` });
  }
  for (const { id, name, presence, ready } of going) {
    if (presence === "away") missing.push({ code: "away", player: id, text: `${name} is away` });
    else if (!ready && policy.readiness !== "none")
      missing.push({ code: "ready", player: id, text: `${name} is not ready` });
  }
  return missing;
}

/** Why the room can or cannot start now, or what it waits for, as data and in sentences. */
export function explainRoom(state: RoomsPart, room: Room, at: number): RoomExplanation {
  const missing = missingToStart(room);
  return {
    room: room.id,
    phase: room.stage.phase,
    canStart: room.stage.phase === "gathering" && missing.length === 0,
    missing,
    text: sentences(state, room, missing, at),
  };
}

function sentences(state: RoomsPart, room: Room, missing: readonly Missing[], at: number): string[] {
  const setback = room.setback === null ? [] : [`The last start failed: ${room.setback.detail}`];
  const host = hostName(room);
  const { stage } = room;
  switch (stage.phase) {
    case "gathering":
      return missing.length === 0
        ? [`Everything is there; ${startersOf(room, host)}.`, ...setback]
        : [...missing.map((row) => `Cannot start: ${row.text}.`), ...setback];
    case "counting":
      return [
        `Everything is there; the travel starts in ${Math.max(0, Math.round((stage.startsAtMs - at) / 1000))} s unless something changes.`,
      ];
    case "travelling":
      return travel.explain.travel(state, room, at).text;
    case "playing":
      return [
        `A run on ${room.level?.id} is under way ${placeOf(stage, room)}; it ends when the ${room.policy.resultBy} ${room.policy.resultBy === "instance" ? "reports" : "sets"} the result.`,
      ];
    case "results": {
      const seconds = Math.max(0, Math.round((stage.gathersAtMs - at) / 1000));
      return [
        `The results are shown; ${host}, the host, may start again or gather. It gathers by itself in ${seconds} s.`,
      ];
    }
  }
}

function placeOf({ destination }: Playing, { members }: Room): string {
  if (destination.by === "dedicated") return `on ${destination.instance}`;
  if (destination.by === "player-hosted")
    return `in the world of ${members.get(destination.player)?.name ?? "a member"}`;
  return "and relayed by the service";
}

function startersOf({ policy }: Room, host: string): string {
  if (policy.autoStart) return "it starts by itself";
  return policy.starters === "anyone" ? "any member can start" : `${host}, the host, can start`;
}
