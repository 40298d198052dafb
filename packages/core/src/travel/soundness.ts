import type { HarborState } from "../harbor/state.ts";

/** What must never be in a travel, each in a sentence. */
export const travelFaults = ({ travels, rooms }: HarborState): string[] =>
  [...travels.byRun.values()]
    .filter(({ run, room }) => rooms.byId.get(room)?.run !== run)
    .map(({ run, room }) => `travel ${run}: it belongs to no run of room ${room}`);
