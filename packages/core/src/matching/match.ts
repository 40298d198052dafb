import { valueAt } from "./curve.ts";
import type { Entrant, EntrantPlayer } from "./entrant.ts";
import type { Found } from "./found.ts";
import { postsOf, rolesTaken } from "./posts.ts";
import { unmetOf } from "./preferences.ts";
import type { MatchRules } from "./rules.ts";
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
  /** Points of score that the mean wait made up for, in a queue that chooses by price. */
  readonly allowed?: number;
  /** Attributes of preferences that its tickets do not share, where there are any. */
  readonly unmet?: readonly string[];
}

export interface Match {
  /** The longest waiting first, which it was made for. */
  readonly entrants: readonly Entrant[];
  /** Where all can play best; null when the queue looks at no latency. */
  readonly region: string | null;
  /** All regions within every ticket's ceiling: those with a place first, then by their worst latency. */
  readonly regions: readonly string[];
  /** The side of each player, counted through all players of the tickets: see {@link sidesOf}. */
  readonly sideOf: readonly number[];
  readonly score: number;
}

/** Ids of the players of each side. */
export const sidesOf = (match: Match): string[][] => playersOf(match).map((side) => side.map(({ id }) => id));

/** The role that each player takes, by id, where the rules have a line-up. */
export function rolesOf(rules: MatchRules, match: Match): Record<string, string> | undefined {
  if (rules.lineUp === null) return undefined;
  const posts = postsOf(rules);
  return Object.fromEntries(playersOf(match).flatMap((side) => rolesTaken(side, posts)));
}

/** The players of each side. */
function playersOf({ entrants, sideOf }: Match): EntrantPlayer[][] {
  const sides: EntrantPlayer[][] = Array.from({ length: Math.max(...sideOf) + 1 }, () => []);
  for (const [n, player] of entrants.flatMap(({ players }) => players).entries()) sides[sideOf[n] ?? 0]?.push(player);
  return sides;
}

/** What is to be said of a match that was made at a moment. */
export function qualityOf(rules: MatchRules, match: Match, nowMs: number): MatchQuality {
  const { entrants, region, score } = match;
  const waits = entrants.map(({ party }) => (nowMs - party.sinceMs) / 1_000);
  // A playing room that is filled up may have a side without anybody.
  const sides = playersOf(match).filter((side) => side.length > 0);
  const at = rules.latency?.regions.indexOf(region ?? "") ?? -1;
  const counted = entrants.map(({ headStartMs }, n) => (waits[n] ?? 0) + headStartMs / 1_000);
  const unmet = unmetOf(
    rules,
    entrants.map(({ preferred }) => preferred),
  );
  const figures = (of: (n: number) => readonly number[]) =>
    Object.fromEntries(rules.closeness.map(({ attribute }, n) => [attribute, rounded(between(of(n)))]));
  const meanOf = (side: readonly EntrantPlayer[], n: number) => mean(side.map(({ numbers }) => numbers[n] ?? 0));
  return {
    score: rounded(score),
    spread: figures((n) => entrants.map(({ numbers }) => numbers[n] ?? 0)),
    sideGap: figures((n) => sides.map((side) => meanOf(side, n))),
    worstLatencyMs: at < 0 ? null : Math.max(...entrants.map(({ latencies }) => latencies[at] ?? 0)),
    longestWaitS: rounded(Math.max(...waits)),
    meanWaitS: rounded(mean(waits)),
    ...(unmet.length > 0 && { unmet }),
    ...(rules.choose.by === "price" && { allowed: rounded(valueAt(rules.choose.allowance, mean(counted))) }),
  };
}

const between = (numbers: readonly number[]) => Math.max(...numbers) - Math.min(...numbers);
const mean = (numbers: readonly number[]) => numbers.reduce((sum, number) => sum + number, 0) / numbers.length;

/** To a thousandth: nobody feels less, and it reads well. */
const rounded = (value: number) => Math.round(value * 1_000) / 1_000;

/** Makes a match of tickets that fit, or undefined when they cannot be put into sides. */
export function matchOf(
  { latency }: MatchRules,
  { sides, waiting, open }: { sides: Sides; waiting: Waiting; open: number },
  found: Found,
): Match | undefined {
  const regions = latency ? regionsOf(latency.regions, waiting, found, open) : [];
  // The last place where it could have been played is gone since it was found.
  if (latency && regions.length === 0) return undefined;
  if (!sides.arrange(found)) return undefined;
  const { slots } = found;
  const entrants = new Array<Entrant>(slots.length);
  for (let n = 0; n < slots.length; n++) entrants[n] = waiting.entrants[slots[n] as number] as Entrant;
  return { entrants, region: regions[0] ?? null, regions, sideOf: sides.sideOf(), score: found.score };
}

/**
 * The regions within every ticket's ceiling, those that are open first, then by the worst latency to them. None when no
 * open one is among them.
 */
function regionsOf(
  names: readonly string[],
  { positions }: Waiting,
  { line, slots }: Found,
  open: number,
): readonly string[] {
  let shared = -1;
  for (const slot of slots) {
    const position = positions.at[slot] as number;
    // A match made before this one may have moved everybody.
    line.refresh(position);
    shared &= line.regions[position] as number;
  }
  if ((shared & open) === 0) return [];
  const found: { readonly name: string; readonly rank: number }[] = [];
  for (let n = 0; n < names.length; n++) {
    if ((shared & (1 << n)) === 0) continue;
    let worstMs = 0;
    for (const slot of slots) {
      const latency = line.latencyOf(positions.at[slot] as number, n);
      if (latency > worstMs) worstMs = latency;
    }
    found.push({ name: names[n] as string, rank: (open & (1 << n)) === 0 ? CLOSED + worstMs : worstMs });
  }
  return found.sort((one, other) => one.rank - other.rank).map(({ name }) => name);
}

/** More than any latency: behind all that are open. */
const CLOSED = 1e9;
