// A value of another type.
import type { Room } from "../../packages/core/src/rooms/state.ts";

export function show(room: Room): void {
  room.stage = { phase: "results", gathersAtMs: "soon" };
}
