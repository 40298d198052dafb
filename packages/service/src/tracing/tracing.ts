import type { HarborEvent, HarborState } from "@yellow-harbor/core";
import type { PlayerAsk, PlayerId, ProblemCode } from "@yellow-harbor/protocol";

/** A request of a player on its way through the service. */
export interface RequestTrace {
  /** The harbor has decided. */
  decided(): void;
  /** Its events are durable, and the answer is on its way. */
  answered(refused: ProblemCode | undefined): void;
}

/** A request over HTTP. */
export interface HttpTrace {
  ended(route: string, status: number, code: ProblemCode | null): void;
}

/** What is traced. Nothing of it may throw, and nothing waits for it. */
export interface Tracing {
  /** A request of a player has come; undefined when it is not one of those that are traced. */
  request(ask: PlayerAsk, player: PlayerId): RequestTrace | undefined;
  /** A request over HTTP has come, with the trace of its caller (W3C Trace Context) where it has one. */
  http(method: string, traceparent: string | undefined): HttpTrace | undefined;
  /** Something is durable. */
  happened(event: HarborEvent, atMs: number, state: HarborState): void;
  /** Resolves once what was traced is sent, or cannot be in a moment. */
  end(): Promise<void>;
}
