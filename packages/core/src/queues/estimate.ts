import type { WaitEstimate } from "@yellow-harbor/protocol";

/** So many waits are remembered, of matched tickets. */
const REMEMBERED = 200;
/** With fewer than this nothing is said. */
const ENOUGH = 8;

/** Players and milliseconds, one after the other. */
export const remember = (waits: readonly number[], players: number, waitedMs: number): readonly number[] => [
  ...waits.slice(Math.max(0, waits.length - 2 * (REMEMBERED - 1))),
  players,
  waitedMs,
];

/** How long tickets have waited lately: those of parties of the same size, or all when those are too few; else undefined. */
export function estimateFor(waits: readonly number[], players: number): WaitEstimate | undefined {
  const all: number[] = [];
  const alike: number[] = [];
  for (let n = 0; n < waits.length; n += 2) {
    const waitedMs = waits[n + 1] ?? 0;
    all.push(waitedMs);
    if (waits[n] === players) alike.push(waitedMs);
  }
  const isAlike = alike.length >= ENOUGH;
  const used = (isAlike ? alike : all).sort((a, b) => a - b);
  if (used.length < ENOUGH) return undefined;
  // Nearest rank: always a wait that somebody has had, to a tenth of a second.
  const at = (share: number) => Math.round((used[Math.ceil(share * used.length) - 1] ?? 0) / 100) / 10;
  return { p25S: at(0.25), p50S: at(0.5), p75S: at(0.75), from: used.length, alike: isAlike };
}
