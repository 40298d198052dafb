import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** What members say who connect to each other directly. Everything rejects with {@link ProblemError}. */
export class DirectVerbs {
  readonly #ask: Ask;

  constructor(ask: Ask) {
    this.#ask = ask;
  }

  /** Passes something to one member, such as addresses; it hears a `signal`. */
  signal(to: string, body: PlayerArgsTyped<"room.signal">["body"]): Promise<PlayerReply<"room.signal">> {
    return this.#ask("room.signal", { to, body });
  }

  /** As host: tells those who look for a room at which port of one's own address echoes are answered; null for none. */
  tellEcho(port: number | null, transport: "udp" | "websocket" = "udp"): Promise<PlayerReply<"room.tell-echo">> {
    return this.#ask("room.tell-echo", { port, transport });
  }

  /** Tells how far other members are, in milliseconds; it replaces what was told before. */
  tellLatencies(latencyMs: Readonly<Record<string, number>>): Promise<PlayerReply<"room.tell-latencies">> {
    return this.#ask("room.tell-latencies", { latencyMs });
  }
}
