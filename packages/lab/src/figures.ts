import { max, mean, quantileSorted } from "simple-statistics";
import type { Played } from "./play.ts";
import type { TicketLine } from "./traffic.ts";

/** How a figure is spread over many; null where there is nothing to count. */
export interface Spread {
  readonly mean: number | null;
  readonly p50: number | null;
  readonly p90: number | null;
  readonly p99: number | null;
  readonly max: number | null;
}

export interface Figures {
  readonly tickets: number;
  readonly players: number;
  readonly matched: { readonly tickets: number; readonly players: number };
  readonly expired: number;
  readonly cancelled: number;
  /** Tickets whose players did not confirm a match. */
  readonly declined: number;
  readonly waiting: number;
  /** Tickets that had no part in the queue, by the code of the refusal. */
  readonly refused: Readonly<Record<string, number>>;
  readonly matches: number;
  readonly matchesPerMinute: number | null;
  /** Matches that were not confirmed by all, and those to which somebody did not come. */
  readonly undone: number;
  readonly short: number;
  /** Share of the passes in which there was nowhere to play. */
  readonly fullShare: number;
  /** Seconds that matched tickets have waited. */
  readonly waitS: Spread;
  /** The same with those that found nobody in time, by how long they searched. */
  readonly searchS: Spread;
  /** Between the lowest and the highest ticket of a match, by attribute. */
  readonly spread: Readonly<Record<string, Spread>>;
  /** Between the means of the sides of a match, by attribute. */
  readonly sideGap: Readonly<Record<string, Spread>>;
  readonly worstLatencyMs: Spread;
}

export function figuresOf(tickets: readonly TicketLine[], played: Played): Figures {
  const { matches, endings, waits } = played;
  const count = (outcome: string) => endings.filter((ending) => ending.outcome === outcome).length;
  const refused: Record<string, number> = {};
  for (const { code } of endings) if (code) refused[code] = (refused[code] ?? 0) + 1;
  const attributes = Object.keys(matches[0]?.quality.spread ?? {});
  const by = (figure: "spread" | "sideGap") =>
    Object.fromEntries(
      attributes.map((name) => [name, spreadOf(matches.map(({ quality }) => quality[figure][name] ?? 0))]),
    );
  const latencies = matches.flatMap(({ quality }) => quality.worstLatencyMs ?? []);
  return {
    tickets: tickets.length,
    players: tickets.reduce((sum, { players }) => sum + players.length, 0),
    matched: { tickets: waits.length, players: matches.reduce((sum, { sides }) => sum + sides.flat().length, 0) },
    expired: count("expired"),
    cancelled: count("cancelled"),
    declined: count("declined"),
    waiting: count("waiting"),
    refused,
    matches: matches.length,
    matchesPerMinute: perMinute(tickets, played),
    undone: played.undone,
    short: played.short,
    fullShare: played.passes === 0 ? 0 : rounded(played.fullPasses / played.passes),
    waitS: spreadOf(waits),
    searchS: spreadOf([...waits, ...inVain(tickets, played)]),
    spread: by("spread"),
    sideGap: by("sideGap"),
    worstLatencyMs: spreadOf(latencies),
  };
}

/** Seconds that those have searched who found nobody in time, or still wait. */
function inVain(tickets: readonly TicketLine[], { endings }: Played): number[] {
  const beganAt = new Map(tickets.map(({ ticket, at }) => [ticket, at]));
  return endings
    .filter(({ outcome }) => outcome === "expired" || outcome === "waiting")
    .map(({ ticket, at }) => at - (beganAt.get(ticket) ?? at));
}

/** From the first ticket to the last match. */
function perMinute(tickets: readonly TicketLine[], { matches }: Played): number | null {
  const last = matches.at(-1);
  if (!last) return null;
  const minutes = (last.at - (tickets[0]?.at ?? 0)) / 60;
  return minutes > 0 ? rounded(matches.length / minutes) : null;
}

export function spreadOf(values: readonly number[]): Spread {
  if (values.length === 0) return { mean: null, p50: null, p90: null, p99: null, max: null };
  const sorted = values.toSorted((a, b) => a - b);
  const at = (share: number) => rounded(quantileSorted(sorted, share));
  return { mean: rounded(mean(sorted)), p50: at(0.5), p90: at(0.9), p99: at(0.99), max: rounded(max(sorted)) };
}

const rounded = (value: number) => Math.round(value * 1_000) / 1_000;
