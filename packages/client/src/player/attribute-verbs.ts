import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** What a player brings into every room. Everything rejects with {@link ProblemError}. */
export class AttributeVerbs {
  readonly #ask: Ask;

  constructor(ask: Ask) {
    this.#ask = ask;
  }

  /** What one brings, and what it may be in words of JSON Schema. */
  list(): Promise<PlayerReply<"player.attributes">> {
    return this.#ask("player.attributes", {});
  }

  /** Says what one brings into the room one is in alone; null for what one brings everywhere. */
  setInRoom(
    attributes: PlayerArgsTyped<"room.set-attributes">["attributes"],
  ): Promise<PlayerReply<"room.set-attributes">> {
    return this.#ask("room.set-attributes", { attributes });
  }

  /** Says what one brings; null brings an attribute back to its default. */
  set(
    attributes: PlayerArgsTyped<"player.set-attributes">["attributes"],
  ): Promise<PlayerReply<"player.set-attributes">> {
    return this.#ask("player.set-attributes", { attributes });
  }
}
