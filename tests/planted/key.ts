// A key that the phase has not.
import type { Room } from "../../packages/core/src/model/rooms/state.ts";

export function count(room: Room, startsAtMs: number): void {
  room.stage = { phase: "counting", startsAtMs, startAtMs: startsAtMs };
}
