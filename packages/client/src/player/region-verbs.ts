import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";
import { type EchoWays, type Measured, measureEcho } from "./echo.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

/** The regions in which matches are played, and how far away they are. Everything rejects with {@link ProblemError}. */
export class RegionVerbs {
  readonly #ask: Ask;
  readonly #ways: EchoWays;
  #measured: Readonly<Record<string, Measured>> = {};

  constructor(ask: Ask, ways: EchoWays) {
    this.#ask = ask;
    this.#ways = ways;
  }

  list(): Promise<PlayerReply<"region.list">> {
    return this.#ask("region.list", {});
  }

  /** What was measured last, by region; empty before {@link measure}. */
  get measured(): Readonly<Record<string, Measured>> {
    return this.#measured;
  }

  /** Latencies in milliseconds by region, as a search takes them: `search({ queue, latencyMs: player.regions.latencyMs })`. */
  get latencyMs(): Record<string, number> {
    return Object.fromEntries(Object.entries(this.#measured).map(([region, { latencyMs }]) => [region, latencyMs]));
  }

  /** Measures them side by side, and remembers it. A region of which nothing answers is left out. */
  async measure(): Promise<Readonly<Record<string, Measured>>> {
    const { regions } = await this.list();
    const found = await Promise.all(
      regions.map(async ({ id, echo }) => [id, await measureEcho(echo, this.#ways)] as const),
    );
    this.#measured = Object.fromEntries(found.flatMap(([id, measured]) => (measured ? [[id, measured]] : [])));
    return this.#measured;
  }
}
