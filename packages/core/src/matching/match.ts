import type { Entrant } from "./entrant.ts";
import type { MatchRules } from "./rules.ts";
import type { Found } from "./search.ts";
import type { Sides } from "./sides.ts";
import type { Waiting } from "./waiting.ts";

/** How good a match is: what it was chosen by, and what its players will feel. */
export interface MatchQuality {
  /** The stated score it was chosen by: the spreads, each times its weight. Lower is better. */
  readonly score: number;
  /** Between the lowest and the highest ticket, by attribute. */
  readonly spread: Readonly<Record<string, number>>;
  /** Between the means of the strongest and the weakest side, by attribute. */
  readonly sideGap: Readonly<Record<string, number>>;
  /** Worst latency of a player to the region, in milliseconds; null when the queue looks at none. */
  readonly worstLatencyMs: number | null;
  /** Seconds that the longest waiting ticket has waited, and the mean of all. */
  readonly longestWaitS: number;
  readonly meanWaitS: number;
}

export interface Match {
  /** The longest waiting first, which it was made for. */
  readonly entrants: readonly Entrant[];
  /** Where all can play best; null when the queue looks at no latency. */
  readonly region: string | null;
  /** The players of each side, counted through all players of the tickets: see {@link sidesOf}. */
  readonly sides: readonly (readonly number[])[];
  readonly score: number;
}

/** Ids of the players of each side. */
export function sidesOf({ entrants, sides }: Match): string[][] {
  const players = entrants.flatMap((entrant) => entrant.players);
  return sides.map((side) => side.map((n) => players[n]?.id ?? ""));
}

/** What is to be said of a match that was made at a moment. */
export function qualityOf(rules: MatchRules, { entrants, region, sides, score }: Match, nowMs: number): MatchQuality {
  const waits = entrants.map(({ party }) => (nowMs - party.sinceMs) / 1_000);
  const players = entrants.flatMap((entrant) => entrant.players);
  const at = rules.latency?.regions.indexOf(region ?? "") ?? -1;
  const figures = (of: (n: number) => readonly number[]) =>
    Object.fromEntries(rules.closeness.map(({ attribute }, n) => [attribute, rounded(between(of(n)))]));
  const meanOf = (side: readonly number[], n: number) => mean(side.map((player) => players[player]?.numbers[n] ?? 0));
  return {
    score: rounded(score),
    spread: figures((n) => entrants.map(({ numbers }) => numbers[n] ?? 0)),
    sideGap: figures((n) => sides.map((side) => meanOf(side, n))),
    worstLatencyMs: at < 0 ? null : Math.max(...entrants.map(({ latencies }) => latencies[at] ?? 0)),
    longestWaitS: rounded(Math.max(...waits)),
    meanWaitS: rounded(mean(waits)),
  };
}

const between = (numbers: readonly number[]) => Math.max(...numbers) - Math.min(...numbers);
const mean = (numbers: readonly number[]) => numbers.reduce((sum, number) => sum + number, 0) / numbers.length;

/** To a thousandth: nobody feels less, and it reads well. */
const rounded = (value: number) => Math.round(value * 1_000) / 1_000;

/** Makes a match of tickets that fit, or undefined when they cannot be put into sides. */
export function matchOf(
  { latency }: MatchRules,
  { sides, waiting }: { sides: Sides; waiting: Waiting },
  found: Found,
): Match | undefined {
  if (!sides.arrange(found)) return undefined;
  const entrants: Entrant[] = [];
  for (const slot of found.slots) entrants.push(waiting.entrants[slot] as Entrant);
  const region = latency && regionOf(latency.regions, waiting, found);
  return { entrants, region, sides: sides.players(), score: found.score };
}

/** Of the regions within every ticket's ceiling the one whose worst latency is lowest. */
function regionOf(names: readonly string[], { positions }: Waiting, { line, slots }: Found): string | null {
  let shared = -1;
  for (const slot of slots) {
    const position = positions.at[slot] as number;
    // A match made before this one may have moved everybody.
    line.refresh(position);
    shared &= line.regions[position] as number;
  }
  let best = -1;
  let bestMs = Number.POSITIVE_INFINITY;
  for (let n = 0; n < names.length; n++) {
    if ((shared & (1 << n)) === 0) continue;
    let worstMs = 0;
    for (const slot of slots) {
      const latency = line.latencyOf(positions.at[slot] as number, n);
      if (latency > worstMs) worstMs = latency;
    }
    if (worstMs >= bestMs) continue;
    best = n;
    bestMs = worstMs;
  }
  return names[best] ?? null;
}
