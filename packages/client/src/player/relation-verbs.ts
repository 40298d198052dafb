import type { FriendView, PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";
import type { PlayerSession } from "./player-session.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** Whom a player knows, and of whom it wants to hear nothing. Everything rejects with {@link ProblemError}. */
export class RelationVerbs {
  readonly #ask: Ask;
  readonly #session: PlayerSession;

  constructor(ask: Ask, session: PlayerSession) {
    this.#ask = ask;
    this.#session = session;
  }

  /** Those one follows who are in the harbor, as they are now; none before {@link follow}. */
  get friends(): readonly FriendView[] {
    return this.#session.friends.now;
  }

  /** Those one knows who are in the harbor. Whom one knows the game's back end says. */
  list(): Promise<PlayerReply<"friends.list">> {
    return this.#ask("friends.list", {});
  }

  /** Follows them: `friends` events tell who is where, now and after each change, also after a resume. */
  follow(): Promise<void> {
    return this.#session.followFriends();
  }

  async unfollow(): Promise<void> {
    this.#session.friends.forget();
    await this.#ask("friends.unfollow", {});
  }

  /** Has friends see nothing of where one is, or lets them see it again. */
  hide(hidden = true): Promise<PlayerReply<"friends.hide">> {
    return this.#ask("friends.hide", { hidden });
  }

  listBlocked(): Promise<PlayerReply<"blocks.list">> {
    return this.#ask("blocks.list", {});
  }

  /** Says something to one player of the lobby alone. */
  message(to: string, text: string): Promise<PlayerReply<"player.message">> {
    return this.#ask("player.message", { to, text });
  }

  /** Tells those who run the game of somebody's conduct. */
  report(args: PlayerArgsTyped<"player.report">): Promise<PlayerReply<"player.report">> {
    return this.#ask("player.report", args);
  }

  /** Hears nothing of somebody any more, or with `chatOnly` nothing that it says. Nobody is told. */
  block(who: PlayerArgsTyped<"blocks.add">): Promise<PlayerReply<"blocks.add">> {
    return this.#ask("blocks.add", who);
  }

  unblock(who: PlayerArgsTyped<"blocks.remove">): Promise<PlayerReply<"blocks.remove">> {
    return this.#ask("blocks.remove", who);
  }
}
