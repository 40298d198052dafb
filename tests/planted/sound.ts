// What must compile: otherwise the others might fail for another reason.
import type { Room } from "../../packages/core/src/model/rooms/state.ts";

export function count(room: Room, startsAtMs: number): void {
  room.stage = { phase: "counting", startsAtMs };
}
