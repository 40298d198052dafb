import type { Patch, RoomUpdate } from "@yellow-harbor/protocol";

/** Update of a room: what happened, and the merge patch that takes its view over it. */
export interface UpdateAndPatch {
  readonly update: RoomUpdate;
  readonly patch: Patch;
}
