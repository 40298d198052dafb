import type { AccountId, FriendView, PlayerId } from "@yellow-harbor/protocol";

/** What others see of their friends after an event. */
export interface FriendsChange {
  readonly seen: readonly {
    readonly account: AccountId;
    /** Undefined for one who hides. */
    readonly view: FriendView | undefined;
    /** Players who see nothing of it. */
    readonly hiddenFrom: readonly PlayerId[];
  }[];
  /** Somebody has left the harbor. */
  readonly left?: PlayerId;
  /** Somebody knows others than before. */
  readonly friendsOf?: {
    readonly player: PlayerId;
    readonly accounts: readonly AccountId[];
    readonly friends: readonly FriendView[];
  };
}
