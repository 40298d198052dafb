import { setTimeout as wait } from "node:timers/promises";
import type { PlayerClient } from "@yellow-harbor/client";
import type { GoAboard } from "./aboard.ts";
import type { Tally } from "./tally.ts";

export const BEHAVIOURS = ["wander", "host", "search", "flaky", "slow", "rude"] as const;
export type Behaviour = (typeof BEHAVIOURS)[number];

export interface BotOptions {
  readonly url: string;
  readonly build: string;
  readonly name: string;
  readonly behaviour: Behaviour;
  readonly lobby: string | undefined;
  readonly goAboard: GoAboard | undefined;
  readonly tally: Tally;
  readonly chance: () => number;
  readonly signal: AbortSignal;
}

/** A bot while it is connected. */
export interface Bot extends BotOptions {
  readonly player: PlayerClient;
  /** Cuts the connection as a bad network does; the SDK comes back by itself. */
  readonly cut: () => void;
}

/** Waits between a third of `maxMs` and all of it. */
export const pause = ({ chance, signal }: Pick<BotOptions, "chance" | "signal">, maxMs: number): Promise<void> =>
  wait(maxMs * (0.33 + 0.67 * chance()), undefined, { signal }).catch(() => undefined);
