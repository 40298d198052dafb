import type { PoolRules } from "@yellow-harbor/protocol";
import type { Needs } from "../model/pools/state.ts";
import { OUT_OF_REACH, rankOf } from "./regions.ts";
import { figure, fitsOn, type Slot, whyNotOn } from "./slots.ts";

export interface Placing {
  readonly needs: Needs;
  /** Where it may be, the best first; anywhere when absent. */
  readonly regions: readonly string[] | undefined;
  readonly placement: PoolRules["placement"];
}

export interface Placed {
  readonly slot: Slot;
  /** Why there, in words; undefined where there was nothing to choose. */
  readonly text: string | undefined;
}

/** So many of the others are named with why they were not taken. */
const OTHERS_TOLD = 4;

/**
 * The machine for an instance, or why there is none. First what lies in reach and has room; of these the best region, then
 * what is not preemptible, then, where builds are kept apart, the fewest of the same build; then by what is free.
 */
export function place(slots: readonly Slot[], placing: Placing): Placed | { readonly refused: string } {
  let best: Slot | undefined;
  let bestShare = 0;
  for (const slot of slots) {
    if (rankOf(slot.rules, placing.regions) === OUT_OF_REACH || fitsOn(slot, placing.needs) === 0) continue;
    const share = freeShare(slot);
    if (best === undefined || isBetter({ slot, share }, { slot: best, share: bestShare }, placing)) {
      best = slot;
      bestShare = share;
    }
  }
  if (best === undefined) return { refused: whyNone(slots, placing) };
  return { slot: best, text: slots.length > 1 ? textOf(best, slots, placing) : undefined };
}

interface Weighed {
  readonly slot: Slot;
  readonly share: number;
}

function isBetter(one: Weighed, other: Weighed, { regions, placement }: Placing): boolean {
  const [rank, otherRank] = [rankOf(one.slot.rules, regions), rankOf(other.slot.rules, regions)];
  if (rank !== otherRank) return rank < otherRank;
  if (one.slot.rules.preemptible !== other.slot.rules.preemptible) return !one.slot.rules.preemptible;
  if (placement.apart && one.slot.alike !== other.slot.alike) return one.slot.alike < other.slot.alike;
  if (one.share !== other.share) return placement.by === "spread" ? one.share > other.share : one.share < other.share;
  return placement.by === "spread" ? one.slot.running < other.slot.running : one.slot.running > other.slot.running;
}

/** The scarcest of what is free: places, CPUs, memory, and CPUs by its own word. */
function freeShare({ rules, running, cpus, memoryMb, load, reportedMb }: Slot): number {
  let share = 1 - running / rules.max;
  if (cpus) share = Math.min(share, cpus.free / cpus.all);
  if (memoryMb) share = Math.min(share, memoryMb.free / memoryMb.all);
  if (memoryMb && reportedMb !== undefined) share = Math.min(share, reportedMb / memoryMb.all);
  if (load !== undefined) share = Math.min(share, 1 - load);
  return Math.max(0, share);
}

function textOf(best: Slot, slots: readonly Slot[], placing: Placing): string {
  const { regions, placement } = placing;
  const { region } = best.rules;
  const where = region === null ? best.id : `${best.id} in ${region}`;
  const how = placement.by === "spread" ? "the most free" : "the fullest that has room";
  const apart = placement.apart ? `${best.alike} of the same build there, ` : "";
  const others = slots.filter((slot) => slot !== best);
  const told = others.slice(0, OTHERS_TOLD).map((slot) => `${slot.id} ${againstText(slot, best, placing)}`);
  const more = others.length > OTHERS_TOLD ? [`and ${others.length - OTHERS_TOLD} more`] : [];
  const near = regions === undefined || region === null ? "" : `, ${nearText(region, regions)}`;
  return `${where}${near}: ${apart}${how}, ${freeText(best)}; not ${[...told, ...more].join(", ")}`;
}

const nearText = (region: string, regions: readonly string[]): string =>
  region === regions[0] ? "the best for its players" : `${regions.indexOf(region) + 1}. for its players`;

/** Why a machine was not taken, as what follows its name. */
function againstText(slot: Slot, best: Slot, placing: Placing): string {
  const { needs, regions, placement } = placing;
  if (rankOf(slot.rules, regions) === OUT_OF_REACH) return `(in ${slot.rules.region}, out of reach for its players)`;
  const full = whyNotOn(slot, needs);
  if (full !== undefined) return `(${full})`;
  if (rankOf(slot.rules, regions) > rankOf(best.rules, regions))
    return `(farther: in ${slot.rules.region ?? "no region"})`;
  if (slot.rules.preemptible && !best.rules.preemptible) return "(may be taken away)";
  if (placement.apart && slot.alike > best.alike) return `(${slot.alike} of the same build there)`;
  return `(${freeText(slot)})`;
}

function freeText({ rules, running, cpus, memoryMb, load }: Slot): string {
  const parts = [`${rules.max - running} of ${rules.max} places`];
  if (cpus) parts.push(`${figure(cpus.free)} of ${figure(cpus.all)} CPUs`);
  if (memoryMb) parts.push(`${memoryMb.free} of ${memoryMb.all} MiB`);
  if (load !== undefined) parts.push(`load ${Math.round(load * 100)} %`);
  return parts.join(", ");
}

function whyNone(slots: readonly Slot[], { needs, regions }: Placing): string {
  const names = slots.map(({ id }) => id).join(", ");
  if (slots.length === 0) return "None of its machines is known.";
  const there = slots.filter(({ isThere }) => isThere);
  if (there.length === 0) return `None of the machines ${names} is there; start \`yh agent\` on one of them.`;
  const near = there.filter(({ rules }) => rankOf(rules, regions) !== OUT_OF_REACH);
  if (near.length === 0) {
    const where = regions?.join(" or ") ?? "";
    return `None of the machines ${names} that are there is in ${where}, where the match may be played.`;
  }
  return `No machine takes one more: ${near.map((slot) => `${slot.id} ${whyNotOn(slot, needs)}`).join("; ")}.`;
}
