import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** The lobbies of the harbor, and the way between them. Everything rejects with {@link ProblemError}. */
export class LobbyVerbs {
  readonly #ask: Ask;
  readonly #followAgain: () => Promise<void>;

  constructor(ask: Ask, followAgain: () => Promise<void>) {
    this.#ask = ask;
    this.#followAgain = followAgain;
  }

  list(): Promise<PlayerReply<"lobby.list">> {
    return this.#ask("lobby.list", {});
  }

  /** Goes to another lobby as the same player; a directory that is followed is followed there. */
  async switchTo(lobby: string): Promise<PlayerReply<"player.switch-lobby">> {
    const reply = await this.#ask("player.switch-lobby", { lobby });
    await this.#followAgain();
    return reply;
  }
}
