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
}

export interface Plan {
  readonly live: number;
  readonly wanted: number;
  readonly spare: number;
  /** Asked for while a new instance comes up. */
  readonly meanwhile: number;
  readonly why: "demand" | "min" | "max" | "pinned";
}

/** How many instances a pool should run. Pure: the same demand gives the same plan. */
export function planOf(rules: PlanRules, max: number, demand: Demand): Plan {
  const { held, rooms, roomsEach, idle, counting, asking, ratePerS, bootS, pinned } = demand;
  const spare = Math.max(rules.spare, Math.ceil(rules.spareShare * held));
  const meanwhile = Math.round(ratePerS * bootS);
  // Rooms that come go where there is place beside others; what rooms hold is held, however few they are in it.
  const need = Math.max(held, Math.ceil((rooms + counting + asking + meanwhile) / roomsEach)) + spare;
  const live = held + idle;
  const base = { live, spare, meanwhile };
  // Never below what rooms hold: those are not taken from them.
  if (pinned !== null) return { ...base, wanted: Math.max(held, Math.min(pinned, max)), why: "pinned" };
  if (need > max) return { ...base, wanted: max, why: "max" };
  return need < rules.min ? { ...base, wanted: rules.min, why: "min" } : { ...base, wanted: need, why: "demand" };
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
