import type { PlanRules } from "@yellow-harbor/protocol";

/** What a plan is made from. All in instances, but where it says otherwise. */
export interface Demand {
  /** Held by rooms, whether they run a match or come up for one. */
  readonly held: number;
  /** Rooms that hold them, and how many one of them serves at once. */
  readonly rooms: number;
  readonly roomsEach: number;
  /** Open, or on their way up, and held by nobody. */
  readonly idle: number;
  /** Rooms that count down. */
  readonly counting: number;
  /** Matches whose players are asked. */
  readonly asking: number;
  /** Rooms that asked for an instance, by the second, lately. */
  readonly ratePerS: number;
  /** Boot time from launch to open, p90, in seconds. */
  readonly bootS: number;
  /** So many instances whatever the demand, by an operator's word. */
  readonly pinned: number | null;
  /** The times that are on now, in which a pool is to be larger. */
  readonly windows: readonly PlanWindow[];
  /** Most instances that are launched ahead for what they cost; null when that is of no account. */
  readonly affordable: number | null;
}

/** A time in which a pool is to be larger, by its schedule or by an operator's word. */
export interface PlanWindow {
  readonly id: string;
  readonly fromMs: number;
  readonly untilMs: number;
  readonly min: number;
  readonly spare: number;
  readonly why: string;
}

export interface Plan {
  readonly live: number;
  readonly wanted: number;
  readonly spare: number;
  /** Asked for while a new instance comes up. */
  readonly meanwhile: number;
  readonly why: "demand" | "min" | "max" | "cost" | "pinned";
  /** Wanted, and not launched for what they would cost. */
  readonly heldBack: number;
}

/** How many instances a pool should run. Pure: the same demand gives the same plan. */
export function planOf(rules: PlanRules, max: number, demand: Demand): Plan {
  const { held, rooms, roomsEach, idle, counting, asking, ratePerS, bootS, pinned, windows, affordable } = demand;
  const inRegions = Object.values(rules.spareIn).reduce((sum, many) => sum + many, 0);
  const spare = Math.max(
    rules.spare,
    inRegions,
    Math.ceil(rules.spareShare * held),
    ...windows.map((window) => window.spare),
  );
  const min = Math.max(rules.min, ...windows.map((window) => window.min));
  const meanwhile = Math.round(ratePerS * bootS);
  // Rooms that come go where there is place beside others; what rooms hold is held, however few they are in it.
  const need = Math.max(held, Math.ceil((rooms + counting + asking + meanwhile) / roomsEach)) + spare;
  const live = held + idle;
  const base = { live, spare, meanwhile, heldBack: 0 };
  // Never below what rooms hold: those are not taken from them.
  if (pinned !== null) return { ...base, wanted: Math.max(held, Math.min(pinned, max)), why: "pinned" };
  const free = Math.max(need, min);
  const most = affordable === null ? max : Math.min(max, Math.max(held, affordable));
  if (free > most) {
    const byCost = most < max;
    const heldBack = byCost ? Math.min(free, max) - most : 0;
    return { ...base, wanted: most, why: byCost ? "cost" : "max", heldBack };
  }
  return need < min ? { ...base, wanted: min, why: "min" } : { ...base, wanted: need, why: "demand" };
}

/** Since when the need is lower than what runs, and the highest need since then. */
export interface Lower {
  readonly sinceMs: number;
  readonly highest: number;
}

export interface Step {
  readonly launch: number;
  readonly retire: number;
  readonly lower: Lower | null;
}

/** What is done about a plan now: grown at once, shrunk only after the need was lower for a settling time. */
export function stepOf(plan: Plan, idle: number, lower: Lower | null, settlingMs: number, atMs: number): Step {
  const { live, wanted, why } = plan;
  // An operator's word need not settle.
  const cooldownMs = why === "pinned" ? 0 : settlingMs;
  if (wanted > live) return { launch: wanted - live, retire: 0, lower: null };
  if (wanted === live) return { launch: 0, retire: 0, lower: null };
  const since = lower?.sinceMs ?? atMs;
  const highest = why === "pinned" ? wanted : Math.max(lower?.highest ?? wanted, wanted);
  if (atMs - since < cooldownMs) return { launch: 0, retire: 0, lower: { sinceMs: since, highest } };
  // Only those that nobody holds; one that was needed in the meantime stays.
  return { launch: 0, retire: Math.max(0, Math.min(idle, live - highest)), lower: null };
}

/** From the failures in a row: how long nothing is launched after the last, or null for not until somebody looks. */
export const backOffMs = (failures: number, giveUpAfter = GIVE_UP_AFTER): number | null =>
  failures === 0 ? 0 : failures >= giveUpAfter ? null : Math.min(60_000, 1_000 * 2 ** (failures - 1));

/** Instances in a row that failed before they were open, where a pool says nothing else. */
export const GIVE_UP_AFTER = 6;

/** The nearest-rank percentile of what was measured; 0 when nothing was. */
export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)] ?? 0;
}
