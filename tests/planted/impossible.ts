// A room that plays nowhere, and one that gathers during a run.
import type { Room } from "../../packages/core/src/model/rooms/state.ts";

export function play(room: Room): void {
  room.stage = { phase: "playing", run: "u_1", spread: null, moves: 0 };
}

export function gather(room: Room): void {
  room.stage = { phase: "gathering", run: "u_1" };
}
