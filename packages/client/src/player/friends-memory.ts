import type { FriendsUpdate, FriendView } from "@yellow-harbor/protocol";
import type { Emitter } from "./emitter.ts";
import type { PlayerEvents } from "./player-client-events.ts";

/** The friends that are followed: those who are in the harbor, as they are now. */
export class FriendsMemory {
  readonly #events: Emitter<PlayerEvents>;
  readonly #friends = new Map<string, FriendView>();
  isFollowed = false;

  constructor(events: Emitter<PlayerEvents>) {
    this.#events = events;
  }

  get now(): readonly FriendView[] {
    return [...this.#friends.values()];
  }

  /** Starts from a whole state. */
  begin(friends: readonly FriendView[]): void {
    this.#friends.clear();
    for (const friend of friends) this.#friends.set(friend.account, friend);
    this.#events.emit("friends", this.now);
  }

  apply({ changed, gone }: FriendsUpdate): void {
    for (const account of gone) this.#friends.delete(account);
    for (const friend of changed) this.#friends.set(friend.account, friend);
    this.#events.emit("friends", this.now);
  }

  forget(): void {
    this.isFollowed = false;
    this.#friends.clear();
  }
}
