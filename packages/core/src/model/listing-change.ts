import type { RoomId, RoomListing } from "@yellow-harbor/protocol";

/** What a directory shows of a room after an event, undefined once it shows nothing of it. */
export interface ListingChange {
  readonly lobby: string;
  readonly room: RoomId;
  readonly listing: RoomListing | undefined;
}
