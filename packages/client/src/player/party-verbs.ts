import type { PartyInvitationView, PartyView, PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";
import type { PartyMemory } from "./party-memory.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** The party of a player, and what it says of parties. Everything rejects with {@link ProblemError}. */
export class PartyVerbs {
  readonly #ask: Ask;
  readonly #memory: PartyMemory;

  constructor(ask: Ask, memory: PartyMemory) {
    this.#ask = ask;
    this.#memory = memory;
  }

  /** The party one is in, as it is now; undefined in none. */
  get own(): PartyView | undefined {
    return this.#memory.party;
  }

  /** Invitations into parties, the first to end first. */
  get invitations(): readonly PartyInvitationView[] {
    return this.#memory.invitations;
  }

  /** Founds a party; `brought` is what one brings to its searches. */
  open(brought: PlayerArgsTyped<"party.open"> = {}): Promise<PlayerReply<"party.open">> {
    return this.#ask("party.open", brought);
  }

  /** Joins by code, or by the id of a party that one is invited into. */
  join(args: PlayerArgsTyped<"party.join">): Promise<PlayerReply<"party.join">> {
    return this.#ask("party.join", args);
  }

  leave(): Promise<PlayerReply<"party.leave">> {
    return this.#ask("party.leave", {});
  }

  /** Says whether one goes along with the leader, and what one brings to searches. */
  set(args: PlayerArgsTyped<"party.set">): Promise<PlayerReply<"party.set">> {
    return this.#ask("party.set", args);
  }

  invite(args: PlayerArgsTyped<"party.invite">): Promise<PlayerReply<"party.invite">> {
    return this.#ask("party.invite", args);
  }

  /** Takes an invitation back: one's own, or as leader any. */
  takeBack(args: PlayerArgsTyped<"party.uninvite">): Promise<PlayerReply<"party.uninvite">> {
    return this.#ask("party.uninvite", args);
  }

  decline(party: string): Promise<PlayerReply<"party.decline">> {
    return this.#ask("party.decline", { party });
  }

  kick(player: string, reason?: string): Promise<PlayerReply<"party.kick">> {
    return this.#ask("party.kick", { player, ...(reason !== undefined && { reason }) });
  }

  handOver(to: string): Promise<PlayerReply<"party.hand-over">> {
    return this.#ask("party.hand-over", { to });
  }

  /** As leader: fetches those who go along into one's room. Resolves with who came. */
  bring(): Promise<PlayerReply<"party.bring">> {
    return this.#ask("party.bring", {});
  }
}
