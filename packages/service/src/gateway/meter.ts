import type { PlayerAsk, ProblemCode } from "@yellow-harbor/protocol";

/** What is measured of the players' side. Nothing of it may throw. */
export interface GatewayMeter {
  /** A request was answered, so long after it came. */
  answered(ask: PlayerAsk, tookMs: number): void;
  /** A player's client was told a problem. */
  refused(code: ProblemCode): void;
}
