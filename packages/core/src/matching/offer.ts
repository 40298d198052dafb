import { reachedAfter, valueAt } from "./curve.ts";
import type { Entrant } from "./entrant.ts";
import type { Now } from "./funnel.ts";
import { openOf } from "./open-regions.ts";
import { fewestAt, packingsOf } from "./packing.ts";
import type { MatchRules } from "./rules.ts";
import { Search } from "./search.ts";
import { Sides } from "./sides.ts";
import { type Row, Waiting } from "./waiting.ts";

/** So many of the others are looked at, those nearest by the first number. */
const OTHERS_MAX = 200;
const REACH = { slack: 16, steps: 20_000 };

/** The best match that a ticket could have now in a queue that chooses by price, good enough or not. */
export interface Offer {
  readonly tickets: readonly string[];
  readonly score: number;
  /** Seconds, in the mean of its tickets, with what they have a head start of. */
  readonly meanWaitS: number;
  /** Points of score that the mean wait makes up for now. */
  readonly allowed: number;
  /** Seconds until it is good enough, if nobody comes or goes; 0 when it is, null when it never will be. */
  readonly inS: number | null;
}

/** Undefined where the queue does not choose by price, or no match fits at all. */
export function offerOf(rules: MatchRules, entrant: Entrant, others: readonly Entrant[], now: Now): Offer | undefined {
  if (rules.choose.by !== "price") return undefined;
  const { nowMs } = now;
  const waiting = new Waiting(rules);
  const row = waiting.add(entrant);
  for (const other of nearestOf(entrant, others)) waiting.add(other);
  waiting.settle(nowMs);
  const sides = new Sides(rules, waiting);
  const search = new Search(rules, waiting, (found) => sides.arrange(found));
  search.open = openOf(now.rooms);
  const waitedS = (sinceMs: number) => (nowMs - sinceMs) / 1_000;
  for (const packing of packingsOf(rules, fewestAt(rules, nowMs - row.sinceMs))) {
    const found = row.line.players < packing.players ? undefined : search.best(row, packing, REACH);
    if (found === undefined) continue;
    const rows = found.slots.map((slot) => waiting.rows[slot] as Row);
    const meanWaitS = rows.reduce((sum, { rankMs }) => sum + waitedS(rankMs), 0) / rows.length;
    const after = reachedAfter(rules.choose.allowance, found.score);
    return {
      tickets: rows.map((one) => one.entrant.party.ticket),
      score: found.score,
      meanWaitS,
      allowed: valueAt(rules.choose.allowance, meanWaitS),
      inS: after === undefined ? null : Math.max(0, after - meanWaitS),
    };
  }
  return undefined;
}

function nearestOf(entrant: Entrant, others: readonly Entrant[]): Entrant[] {
  const far = (other: Entrant) => Math.abs((entrant.numbers[0] ?? 0) - (other.numbers[0] ?? 0));
  return others
    .filter(({ key }) => key === entrant.key)
    .sort((one, other) => far(one) - far(other))
    .slice(0, OTHERS_MAX);
}
