import type { FriendsChange } from "@yellow-harbor/core";
import type { AccountId, FriendsUpdate, FriendView, PlayerId } from "@yellow-harbor/protocol";
import type { Connection } from "./connection.ts";
import { Frame } from "./framing.ts";

/** Somebody who follows its friends. */
interface Follower {
  readonly connection: Connection;
  readonly player: PlayerId;
  /** Accounts it knows. */
  readonly accounts: Set<AccountId>;
  /** Those who are in the harbor, as it was told last, as JSON. */
  readonly told: Map<AccountId, string>;
  readonly changed: Map<AccountId, FriendView>;
  readonly gone: Set<AccountId>;
}

/** Friends as they are followed live: those who are here at one moment, then differences. Each hears only of those it knows. */
export class FriendsHub {
  readonly #followers = new Map<PlayerId, Follower>();
  /** Who follows an account. */
  readonly #byAccount = new Map<AccountId, Set<Follower>>();
  readonly #accountOf = new Map<PlayerId, AccountId>();
  readonly #touched = new Set<Follower>();

  get isFollowed(): boolean {
    return this.#followers.size > 0;
  }

  /** Takes somebody in, with all it knows, and those of them who are here. */
  follow(
    connection: Connection,
    player: PlayerId,
    { accounts, friends }: { readonly accounts: readonly AccountId[]; readonly friends: readonly FriendView[] },
  ): void {
    this.unfollow(player);
    const sets = { accounts: new Set<AccountId>(), gone: new Set<AccountId>() };
    const follower: Follower = { connection, player, told: new Map(), changed: new Map(), ...sets };
    this.#followers.set(player, follower);
    for (const account of accounts) this.#link(follower, account);
    for (const friend of friends) {
      follower.told.set(friend.account, JSON.stringify(friend));
      this.#accountOf.set(friend.player, friend.account);
    }
  }

  unfollow(player: PlayerId, connection?: Connection): void {
    const follower = this.#followers.get(player);
    if (follower === undefined || (connection && follower.connection !== connection)) return;
    this.#followers.delete(player);
    this.#touched.delete(follower);
    for (const account of [...follower.accounts]) this.#unlink(follower, account);
    if (this.#followers.size === 0) this.#accountOf.clear();
  }

  /** Takes a change that is durable. It is told with the next {@link flush}. */
  change({ seen, left, friendsOf }: FriendsChange): void {
    for (const { account, view, hiddenFrom } of seen) {
      const followers = this.#byAccount.get(account);
      if (followers === undefined) continue;
      if (view) this.#accountOf.set(view.player, account);
      const text = view && JSON.stringify(view);
      for (const follower of followers) {
        const isSeen = !hiddenFrom.includes(follower.player);
        this.#note(follower, account, isSeen ? view : undefined, text);
      }
    }
    if (left !== undefined) this.#leave(left);
    if (friendsOf) this.#knowsOthers(friendsOf);
  }

  flush(): void {
    for (const follower of this.#touched) {
      const { connection, changed, gone } = follower;
      const update: FriendsUpdate = { frame: "friends", changed: [...changed.values()], gone: [...gone] };
      changed.clear();
      gone.clear();
      connection.send(new Frame(JSON.stringify(update)));
    }
    this.#touched.clear();
  }

  #note(follower: Follower, account: AccountId, view: FriendView | undefined, text = JSON.stringify(view)): void {
    const { told, changed, gone } = follower;
    if (view === undefined) {
      if (!told.delete(account)) return;
      changed.delete(account);
      gone.add(account);
    } else {
      if (told.get(account) === text) return;
      told.set(account, text);
      gone.delete(account);
      changed.set(account, view);
    }
    this.#touched.add(follower);
  }

  #leave(player: PlayerId): void {
    const account = this.#accountOf.get(player);
    this.#accountOf.delete(player);
    for (const follower of this.#byAccount.get(account ?? "") ?? []) this.#note(follower, account ?? "", undefined);
  }

  /** What it was told of those it knows no longer is taken back, and of new ones it hears what there is. */
  #knowsOthers({ player, accounts, friends }: NonNullable<FriendsChange["friendsOf"]>): void {
    const follower = this.#followers.get(player);
    if (follower === undefined) return;
    const now = new Set(accounts);
    for (const account of follower.accounts) if (!now.has(account)) this.#unlink(follower, account);
    for (const account of now) this.#link(follower, account);
    const here = new Map(friends.map((friend) => [friend.account, friend] as const));
    for (const account of [...follower.told.keys()]) if (!here.has(account)) this.#note(follower, account, undefined);
    for (const [account, view] of here) {
      this.#accountOf.set(view.player, account);
      this.#note(follower, account, view);
    }
  }

  #link(follower: Follower, account: AccountId): void {
    follower.accounts.add(account);
    const others = this.#byAccount.get(account);
    if (others) others.add(follower);
    else this.#byAccount.set(account, new Set([follower]));
  }

  #unlink(follower: Follower, account: AccountId): void {
    follower.accounts.delete(account);
    const others = this.#byAccount.get(account);
    others?.delete(follower);
    if (others?.size === 0) this.#byAccount.delete(account);
  }
}
