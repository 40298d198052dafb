import { setTimeout as wait } from "node:timers/promises";

export interface BotOptions {
  readonly url: string;
  readonly name: string;
  readonly lobby: "quayside" | "far-light";
  /** How often it lets the queue find a crew, instead of quick-joining a room. */
  readonly searches: number;
  /** Runs played in one room before moving on. */
  readonly runsPerRoom: number;
  readonly signal: AbortSignal;
  readonly chance: () => number;
}

/** Waits between a third of `maxMs` and all of it. */
export const pause = ({ chance, signal }: BotOptions, maxMs: number) =>
  wait(maxMs * (0.3 + 0.7 * chance()), undefined, { signal }).catch(() => undefined);
