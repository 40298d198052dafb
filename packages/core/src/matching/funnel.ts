import { counted } from "@yellow-harbor/protocol";
import { endOf, reachedAfter, valueAt } from "./curve.ts";
import { type Entrant, wantEachOther } from "./entrant.ts";
import type { Curve, MatchRules } from "./rules.ts";

export interface FunnelStep {
  readonly rule: string;
  /** Other tickets that remain after this rule and all before it. */
  readonly left: number;
  readonly text: string;
}

export interface Near {
  readonly ticket: string;
  /** The first rule by which it falls out, null when it is in reach. */
  readonly falls: string | null;
  readonly text: string;
}

/** How far others may differ: what is accepted now, and the most that is ever accepted, after so many seconds of waiting. */
export interface Tolerance {
  readonly rule: string;
  readonly now: number;
  readonly max: number;
  readonly maxAfterS: number;
  readonly unit: string;
}

export interface Funnel {
  readonly steps: readonly FunnelStep[];
  readonly tolerances: readonly Tolerance[];
  readonly nearest: readonly Near[];
  /** Roles of the line-up that those in reach cannot fill, in sentences. */
  readonly missing: readonly string[];
  /** When waiting alone brings more of the others into reach, in seconds, and how many within the second after. */
  readonly next: { readonly inS: number; readonly more: number } | undefined;
}

/** When it is asked, and how many matches could be played in each region; any number when absent. */
export interface Now {
  readonly nowMs: number;
  readonly rooms?: readonly number[] | undefined;
}

const NEAREST_TOLD = 5;

/** One rule by which two tickets are compared. */
interface Rule {
  readonly name: string;
  readonly text: string;
  readonly holds: (other: Entrant) => boolean;
  /** Why a ticket fails the rule, in words. */
  readonly why: (other: Entrant) => string;
  /** Seconds until waiting has brought it about, infinite when it never does. */
  readonly inS: (other: Entrant) => number;
}

/**
 * How many others are left for a ticket after each rule, which are nearest and why they do not fit, and what waiting will
 * change. Examines each of the others once for each rule.
 */
export function funnelOf(rules: MatchRules, entrant: Entrant, others: readonly Entrant[], now: Now): Funnel {
  const { nowMs } = now;
  const all = rulesFor(rules, entrant, now);
  const steps: FunnelStep[] = [
    {
      rule: "waiting",
      left: others.length,
      text: `${counted(others.length, "other ticket")} ${others.length === 1 ? "is" : "are"} waiting.`,
    },
  ];
  let left = others;
  for (const rule of all) {
    left = left.filter(rule.holds);
    steps.push({ rule: rule.name, left: left.length, text: `${left.length} left after ${rule.text}.` });
  }
  return {
    steps,
    tolerances: tolerancesOf(rules, entrant, nowMs),
    nearest: nearestOf(entrant, others, all),
    missing: missingOf(rules, [entrant, ...left]),
    next: nextOf(others, all),
  };
}

/** By each role alone: who takes several may be missing in another still. */
function missingOf({ lineUp, sides }: MatchRules, entrants: readonly Entrant[]): string[] {
  const players = entrants.flatMap((one) => one.players);
  return (lineUp?.perSide ?? []).flatMap(({ role, count }) => {
    const [needed, have] = [count * sides.count, players.filter(({ roles }) => roles.includes(role)).length];
    if (have >= needed) return [];
    const who = have === 0 ? "nobody in reach takes it" : `${counted(have, "player")} in reach can take it`;
    return [`The role ${role} is missing: a match needs ${needed}, and ${who}.`];
  });
}

function rulesFor(rules: MatchRules, entrant: Entrant, { nowMs, rooms }: Now): Rule[] {
  const never = () => Number.POSITIVE_INFINITY;
  const waited = ({ party }: Entrant) => (nowMs - party.sinceMs) / 1_000;
  const equal = rules.needs.flatMap((need) => ("must" in need && need.must === "equal" ? [need.attribute] : []));
  const found: Rule[] = [];
  if (equal.length > 0) {
    found.push({
      name: equal.join(" and "),
      text: `the same ${equal.join(" and ")}`,
      holds: (other) => other.key === entrant.key,
      why: (other) => `${equal.join(" and ")} is ${other.key}, not ${entrant.key}`,
      inS: never,
    });
  }
  const room = rules.sides.count * rules.sides.max - entrant.players.length;
  found.push({
    name: "party size",
    text: `party size: ${room} at most fit beside this one`,
    holds: (other) => other.players.length <= room,
    why: (other) =>
      `it is a party of ${other.players.length}, and ${counted(room, "place")} ${room === 1 ? "is" : "are"} free`,
    inS: never,
  });
  const lists = rules.needs.flatMap((need) => ("must" in need && need.must === "overlap" ? [need.attribute] : []));
  for (const [n, attribute] of lists.entries()) {
    found.push({
      name: attribute,
      text: `an entry of ${attribute} in common`,
      holds: (other) => entrant.lists[n]?.some((entry) => other.listSets[n]?.has(entry)) ?? true,
      why: (other) => `${attribute} is ${other.lists[n]?.join(", ")}`,
      inS: never,
    });
  }
  found.push({
    name: "requirements",
    text: "mutual requirements",
    holds: (other) => wantEachOther(entrant, other),
    why: () => "one requires what the other does not have",
    inS: never,
  });
  if (rules.latency)
    found.push(latencyRule(rules.latency, entrant, { waited, isOpen: (region) => rooms?.[region] !== 0 }));
  for (const [n, { attribute, gap }] of rules.closeness.entries()) {
    const apart = (other: Entrant) => Math.abs((entrant.numbers[n] ?? 0) - (other.numbers[n] ?? 0));
    const within = (one: Entrant) => valueAt(gap, waited(one));
    found.push({
      name: attribute,
      text: `${attribute} within ${shown(within(entrant))} (and within what each other ticket accepts)`,
      holds: (other) => apart(other) <= Math.min(within(entrant), within(other)),
      why: (other) => {
        const [own, theirs] = [within(entrant), within(other)];
        const whose = own <= theirs ? "this ticket accepts" : "the other accepts";
        return `${attribute} is ${shown(apart(other))} apart; ${whose} ${shown(Math.min(own, theirs))}`;
      },
      inS: (other) => {
        const needed = reachedAfter(gap, apart(other));
        return needed === undefined ? Number.POSITIVE_INFINITY : needed - Math.min(waited(entrant), waited(other));
      },
    });
  }
  return found;
}

function latencyRule(
  { regions, ceilingMs }: NonNullable<MatchRules["latency"]>,
  entrant: Entrant,
  { waited, isOpen }: { readonly waited: (one: Entrant) => number; readonly isOpen: (region: number) => boolean },
): Rule {
  const ceiling = (one: Entrant) => valueAt(ceilingMs, waited(one));
  const region = regions.every((_, n) => isOpen(n)) ? "region" : "region with a free place";
  const inS = (other: Entrant) =>
    Math.min(
      ...regions.map((_, n) => {
        if (!isOpen(n)) return Number.POSITIVE_INFINITY;
        const needed = [entrant, other].map((one) => {
          const after = reachedAfter(ceilingMs, one.latencies[n] ?? Number.POSITIVE_INFINITY);
          return after === undefined ? Number.POSITIVE_INFINITY : after - waited(one);
        });
        return Math.max(...needed);
      }),
    );
  return {
    name: "latency",
    text: `latency: a common ${region}, below ${shown(ceiling(entrant))} ms for this ticket`,
    holds: (other) =>
      regions.some((_, n) => isOpen(n) && [entrant, other].every((one) => (one.latencies[n] ?? 1e9) <= ceiling(one))),
    why: (other) =>
      `no ${region} is below ${shown(ceiling(entrant))} ms for this ticket and below ${shown(ceiling(other))} ms for the other`,
    inS,
  };
}

function tolerancesOf({ closeness, latency }: MatchRules, { party }: Entrant, nowMs: number): Funnel["tolerances"] {
  const waitedS = (nowMs - party.sinceMs) / 1_000;
  return [
    ...closeness.map(({ attribute, gap }) => toleranceOf(attribute, gap, waitedS, "")),
    ...(latency ? [toleranceOf("latency", latency.ceilingMs, waitedS, "ms")] : []),
  ];
}

function toleranceOf(rule: string, curve: Curve, waitedS: number, unit: string): Tolerance {
  const max = endOf(curve);
  return { rule, now: rounded(valueAt(curve, waitedS)), max, maxAfterS: reachedAfter(curve, max) ?? 0, unit };
}

/** By the first number; by age where there is none. */
function nearestOf(entrant: Entrant, others: readonly Entrant[], rules: readonly Rule[]): Near[] {
  const apart = (other: Entrant) => Math.abs((entrant.numbers[0] ?? 0) - (other.numbers[0] ?? 0));
  return others
    .toSorted((a, b) => apart(a) - apart(b))
    .slice(0, NEAREST_TOLD)
    .map((other) => {
      const first = rules.find((rule) => !rule.holds(other));
      const { ticket } = other.party;
      return first
        ? { ticket, falls: first.name, text: `${ticket} is not in reach (${first.name}): ${first.why(other)}.` }
        : { ticket, falls: null, text: `${ticket} is in reach.` };
    });
}

function nextOf(others: readonly Entrant[], rules: readonly Rule[]): Funnel["next"] {
  const soon = others
    .map((other) => Math.max(...rules.map((rule) => (rule.holds(other) ? 0 : rule.inS(other)))))
    .filter((inS) => inS > 0 && Number.isFinite(inS))
    .sort((a, b) => a - b);
  const first = soon[0];
  if (first === undefined) return undefined;
  return { inS: Math.ceil(first * 10) / 10, more: soon.filter((inS) => inS <= first + 1).length };
}

const rounded = (value: number) => Math.round(value * 10) / 10;
const shown = (value: number) => String(rounded(value));
