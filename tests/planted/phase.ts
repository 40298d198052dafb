// A phase that is none, written the way reducers write it.
import type { Room } from "../../packages/core/src/model/rooms/state.ts";

export function count(room: Room, startsAtMs: number): void {
  room.stage = { phase: "cuonting", startsAtMs };
}
