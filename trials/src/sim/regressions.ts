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
  "a request of a connection from before the journal was away, for a player who had not come back": {
    seed: 200_007,
    script: [
      { do: "start" },
      { do: "connect", who: 40 },
      { do: "onward", which: 46 },
      { do: "connect", who: 44 },
      { do: "act", who: 10, act: 988, n: 36, m: 16 },
      { do: "cut", who: 4, noticed: true },
      { do: "commit", how: "kept-but-failed" },
    ],
  },
  "a match settled whose room had closed in the same read": {
    seed: 505,
    script: [
      { do: "start" },
      { do: "connect", who: 30 },
      { do: "commit", how: "kept" },
      { do: "commit", how: "kept" },
      { do: "down", who: 40, frames: 5 },
      { do: "search", who: 0, what: "search", n: 20 },
      { do: "connect", who: 36 },
      { do: "onward", which: 37 },
      { do: "search", who: 26, what: "search", n: 11 },
      { do: "flow" },
      { do: "tick", ms: 1_994 },
      { do: "commit", how: "kept" },
      { do: "cut", who: 26, noticed: true },
      { do: "onward", which: 1 },
      { do: "onward", which: 18 },
      { do: "machine", which: 14, what: "poll", n: 61 },
      { do: "onward", which: 37 },
      { do: "onward", which: 15 },
      { do: "operator", what: 293, n: 38, m: 3 },
    ],
  },
};
