// A value of another type.
import type { Room } from "../../packages/core/src/model/rooms/state.ts";

export function show(room: Room): void {
  room.stage = { phase: "results", gathersAtMs: "soon" };
}
