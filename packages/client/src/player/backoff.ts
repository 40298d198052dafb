import type { BackOff } from "@yellow-harbor/protocol";

export interface Backoff extends BackOff {
  /** How many attempts before the connection is given up. */
  readonly attempts: number;
}
