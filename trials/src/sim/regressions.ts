import type { Step } from "./script.ts";

interface Found {
  readonly seed: number;
  readonly script: readonly Step[];
}

/** What simulations have found, as far as they could be shortened. */
export const found: Readonly<Record<string, Found>> = {
  "a deadline overdue while the clock caught up with a wall clock that was set forward": {
    seed: 1,
    script: [
      { do: "start" },
      { do: "connect", who: 28 },
      { do: "flow" },
      { do: "cut", who: 28, noticed: true },
      { do: "set-clock", byMs: 1_000_000 },
      { do: "flow" },
      { do: "tick", ms: 4_300 },
    ],
  },
};
