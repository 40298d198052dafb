import type { Patch, RoomNews } from "@yellow-harbor/protocol";

/** News of a room: what happened, and the merge patch that takes its picture over it. */
export interface Told {
  readonly news: RoomNews;
  readonly patch: Patch;
}
