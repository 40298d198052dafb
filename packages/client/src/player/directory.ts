import type { DirectoryUpdate, PlayerArgsTyped, RoomListing } from "@yellow-harbor/protocol";

/** A followed directory: the listings as they are now, by room. */
export class Directory {
  readonly args: PlayerArgsTyped<"lobby.follow">;
  readonly #rooms = new Map<string, RoomListing>();
  #total = 0;

  constructor(args: PlayerArgsTyped<"lobby.follow">) {
    this.args = args;
  }

  get now(): { rooms: readonly RoomListing[]; total: number } {
    return { rooms: [...this.#rooms.values()], total: this.#total };
  }

  /** Starts from a whole state. */
  begin({ rooms, total }: { rooms: readonly RoomListing[]; total: number }): void {
    this.#rooms.clear();
    for (const listing of rooms) this.#rooms.set(listing.id, listing);
    this.#total = total;
  }

  apply({ changed, gone, total }: DirectoryUpdate): void {
    for (const id of gone) this.#rooms.delete(id);
    for (const listing of changed) this.#rooms.set(listing.id, listing);
    this.#total = total;
  }
}
