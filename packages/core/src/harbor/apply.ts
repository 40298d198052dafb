import type { HarborEvent } from "../model/event.ts";
import type { HarborState } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";
import { capabilityOf } from "./capabilities.ts";
import { changeAlso } from "./changes.ts";
import { refreshDirectory } from "./directory.ts";

/** The only thing that changes state, live and on recovery alike. `at` is the time the event was decided. */
export function apply(state: HarborState, event: HarborEvent, at: number): void {
  const capability = capabilityOf(event.kind);
  capability.apply(state, event, at);
  changeAlso(event, state, at);
  refreshDirectory(state, event);
  const { room } = capability.touches?.(state, event) ?? {};
  // Whoever holds the view of the room sees by its revision that it has missed nothing.
  if (room !== undefined) rooms.also.touch(state, room);
}
