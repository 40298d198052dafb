import type { Backoff } from "./backoff.ts";
import type { LinkOptions } from "./link.ts";

export interface PlayerOptions extends LinkOptions {
  /** Guest name, 1 to 32 visible characters. */
  readonly name: string;
  /** Build of the game client, such as `tidewrights-0.3`. */
  readonly build: string;
  readonly lobby?: string;
  /** Token of an earlier welcome: takes that player up again. */
  readonly resume?: string;
  /** How to come back after a lost connection; false not to. */
  readonly reconnect?: Partial<Backoff> | false;
  /** For tests: the wire version to allocation. */
  readonly wire?: number;
}
