import { endOf, faultOfCurve } from "./curve.ts";
import type { MatchRules, QueueNeed } from "./rules.ts";

/** Something wrong with rules: where, below the queue, and what. */
export interface RuleFault {
  readonly path: readonly PropertyKey[];
  readonly message: string;
}

/** One bit each in a number of 32, without the sign. */
export const REGIONS_MAX = 30;

/** Rules that no match could ever be made by, or that cannot be followed. */
export function faultsOfRules(rules: MatchRules): RuleFault[] {
  return [
    ...sidesFaults(rules),
    ...rules.needs.flatMap((need, n) => needFaults(need, rules.needs, n)),
    ...closenessFaults(rules),
    ...latencyFaults(rules),
    ...lineUpFaults(rules),
    ...fewerFaults(rules),
    ...chooseFaults(rules),
    ...preferFaults(rules),
  ];
}

function sidesFaults({ sides, party }: MatchRules): RuleFault[] {
  const faults: RuleFault[] = [];
  if (sides.min > sides.max) {
    faults.push({ path: ["sides", "min"], message: `expected no more than max, ${sides.max}` });
  }
  const room = party.together ? sides.max : sides.max * sides.count;
  if (party.max > room) {
    const what = party.together ? `a side has ${room} places and parties stay together` : `a match has ${room} places`;
    faults.push({ path: ["party", "max"], message: `${what}; expected at most ${room}` });
  }
  return faults;
}

function needFaults(need: QueueNeed, needs: readonly QueueNeed[], n: number): RuleFault[] {
  const path = ["needs", n];
  if ("must" in need) return [];
  if ("oneOf" in need) {
    if (need.oneOf.length === 0) return [{ path: [...path, "oneOf"], message: "expected at least one value" }];
  } else if ((need.from ?? -Infinity) > (need.to ?? Infinity)) {
    return [{ path: [...path, "from"], message: `expected no more than to, ${need.to}` }];
  }
  const clash = needs.findIndex((other, at) => at < n && other.attribute === need.attribute && excludes(other, need));
  if (clash < 0) return [];
  const message = `nobody can fulfil this and needs.${clash} at once; drop one of them`;
  return [{ path, message }];
}

function excludes(one: QueueNeed, other: QueueNeed): boolean {
  if ("must" in one || "must" in other) return false;
  if ("oneOf" in one && "oneOf" in other) return !one.oneOf.some((value) => other.oneOf.includes(value));
  const list = "oneOf" in one ? one : "oneOf" in other ? other : undefined;
  const { from = -Infinity, to = Infinity } = "oneOf" in one ? (other as { from?: number; to?: number }) : one;
  if (list) return !list.oneOf.some((value) => typeof value === "number" && value >= from && value <= to);
  const range = other as { from?: number; to?: number };
  return (range.from ?? -Infinity) > to || from > (range.to ?? Infinity);
}

function closenessFaults({ closeness }: MatchRules): RuleFault[] {
  return closeness.flatMap(({ attribute, gap }, n) => {
    const fault = faultOfCurve(gap);
    const isTwice = closeness.findIndex((other) => other.attribute === attribute) < n;
    return [
      ...(fault ? [{ path: ["closeness", n, "gap"], message: fault }] : []),
      ...(isTwice ? [{ path: ["closeness", n, "attribute"], message: `${attribute} is named twice` }] : []),
    ];
  });
}

function latencyFaults({ latency }: MatchRules): RuleFault[] {
  if (!latency) return [];
  const fault = faultOfCurve(latency.ceilingMs);
  const path = ["latency", "ceilingMs"];
  if (fault) return [{ path, message: fault }];
  return endOf(latency.ceilingMs) > 0 ? [] : [{ path, message: "ends at 0 ms, which nobody can reach" }];
}

function lineUpFaults({ lineUp, sides, fewer }: MatchRules): RuleFault[] {
  if (!lineUp) return [];
  const posts = lineUp.perSide.reduce((sum, { count }) => sum + count, 0);
  const min = Math.min(sides.min, ...fewer.map((step) => step.min));
  if (posts <= min) return [];
  const message = `asks for ${posts} players of each side, and a side may have only ${min}`;
  return [{ path: ["lineUp", "perSide"], message }];
}

function preferFaults({ prefer }: MatchRules): RuleFault[] {
  return prefer.flatMap(({ attribute }, n) => {
    const isTwice = prefer.findIndex((other) => other.attribute === attribute) < n;
    return isTwice ? [{ path: ["prefer", n, "attribute"], message: `${attribute} is named twice` }] : [];
  });
}

function chooseFaults({ choose, closeness, prefer }: MatchRules): RuleFault[] {
  if (choose.by === "oldest") return [];
  const fault = faultOfCurve(choose.allowance);
  if (fault) return [{ path: ["choose", "allowance"], message: fault }];
  if (endOf(choose.allowance) <= 0) {
    return [
      { path: ["choose", "allowance"], message: "ends at 0 points: no match with any spread would ever be made" },
    ];
  }
  if ([...closeness, ...prefer].some(({ weight }) => weight > 0)) return [];
  const message =
    "needs a closeness or a preference with a weight: without one every match has the score 0, and nothing is waited for";
  return [{ path: ["choose", "by"], message }];
}

function fewerFaults({ fewer, sides }: MatchRules): RuleFault[] {
  return fewer.flatMap((step, n) => {
    const before = fewer[n - 1] ?? { afterMs: 0, min: sides.min };
    const faults: RuleFault[] = [];
    if (step.afterMs <= before.afterMs && n > 0) {
      faults.push({ path: ["fewer", n, "afterMs"], message: `expected more than the step before, ${before.afterMs}` });
    }
    if (step.min >= before.min) {
      faults.push({ path: ["fewer", n, "min"], message: `expected fewer than before, ${before.min}` });
    }
    return faults;
  });
}
