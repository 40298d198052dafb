import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** What a player says of invitations. Everything rejects with {@link ProblemError}. */
export class InvitingVerbs {
  readonly #ask: Ask;

  constructor(ask: Ask) {
    this.#ask = ask;
  }

  /** Invites a player, or an account, into one's room: a place is kept for it. */
  invite(args: PlayerArgsTyped<"room.invite">): Promise<PlayerReply<"room.invite">> {
    return this.#ask("room.invite", args);
  }

  /** Takes an invitation back: one's own, or as host any. */
  takeBack(args: PlayerArgsTyped<"room.uninvite">): Promise<PlayerReply<"room.uninvite">> {
    return this.#ask("room.uninvite", args);
  }

  decline(room: string): Promise<PlayerReply<"room.decline">> {
    return this.#ask("room.decline", { room });
  }

  /** Hears of no invitation, or of none but those by friends, or of all again; nobody learns of it. */
  mute(muted = true, how: { exceptFriends?: boolean } = {}): Promise<PlayerReply<"room.mute-invites">> {
    return this.#ask("room.mute-invites", { muted, ...how });
  }
}
