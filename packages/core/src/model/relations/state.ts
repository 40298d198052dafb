import type { AccountId, PlayerId } from "@yellow-harbor/protocol";

/** Somebody of whom a player wants to hear nothing: by its account where it has one, else as the player that it was. */
export interface Blocked {
  readonly player: PlayerId | null;
  readonly account: AccountId | null;
  /** As it was called then. */
  readonly name: string | null;
  /** It was named by its account, which is so no secret to whoever did. */
  readonly byAccount: boolean;
  /** Only what it says is not heard. */
  readonly chatOnly?: true;
}

export interface Relations {
  /** Accounts that it knows, by the word of the game's back end. */
  readonly friends: readonly AccountId[];
  readonly blocked: readonly Blocked[];
  /** Its friends are not to see where it is. */
  readonly hidden: boolean;
}

export interface RelationsState {
  /** Only of players of whom there is anything to say. */
  readonly byPlayer: Map<PlayerId, Relations>;
}

export const NO_RELATIONS: Relations = { friends: [], blocked: [], hidden: false };

export function newRelationsState(): RelationsState {
  return { byPlayer: new Map() };
}
