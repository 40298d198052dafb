// A key that the phase has not.
import type { Room } from "../../packages/core/src/rooms/state.ts";

export function count(room: Room, startsAtMs: number): void {
  room.stage = { phase: "counting", startsAtMs, startAtMs: startsAtMs };
}
