import type { Waiting } from "@yellow-harbor/protocol";
import type { Backoff } from "./backoff.ts";
import type { UdpEchoes } from "./echo.ts";
import type { LinkOptions } from "./link.ts";

export interface PlayerOptions extends LinkOptions {
  /** Name to play under, 1 to 32 visible characters; an account token may have one instead. */
  readonly name?: string;
  /** Account token of the game's own back end, or what gets a new one: it is asked for each new hello. */
  readonly account?: string | (() => string | Promise<string>);
  /** Random key, 32 to 128 characters, that the device keeps: a guest is the same player with it next time. */
  readonly device?: string;
  /** Build of the game client, such as `tidewrights-0.3`. */
  readonly build: string;
  readonly lobby?: string;
  /** Token of an earlier welcome: takes that player up again. */
  readonly resume?: string;
  /** Waits in line while the harbor is full, and hears where; without it a full harbor refuses. */
  readonly onWaiting?: (waiting: Pick<Waiting, "position" | "of" | "sinceMs" | "estimateMs">) => void;
  /** Measures round trips by UDP, where the platform has it; without it regions and rooms are measured by WebSocket alone. */
  readonly udpEchoes?: UdpEchoes;
  /** How to come back after a lost connection; false not to. */
  readonly reconnect?: Partial<Backoff> | false;
  /** For tests: the wire version to allocation. */
  readonly wire?: number;
}
