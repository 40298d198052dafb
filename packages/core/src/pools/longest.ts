import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { accept, type Decision, nothingToDo, type PoolsContext } from "../model/decision.ts";
import { isIdle, matchesOf } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";
import { drain } from "./allocate.ts";
import { stopEffect, stopEvent } from "./ending.ts";

/** It has run for as long as its build may: it goes on for the matches it has, and takes no more. */
export function runLate(context: PoolsContext, { id, launchedAtMs }: Instance): Decision {
  const ranMs = context.at - launchedAtMs;
  return drain(context, { do: "pool.drain", id, why: `has run for ${spanText(ranMs)}, the longest its build may` });
}

/** Nobody has been in its matches for as long as its build allows. */
export function emptyLate({ at }: PoolsContext, one: Instance): Decision {
  if (one.gone || one.stopping || one.exiting || isIdle(one) || !isDeserted(one)) return nothingToDo;
  const why = `nobody has been in its match for ${spanText(one.emptyMs ?? 0)}, the longest its build allows`;
  return accept([{ ...stopEvent(one, why, at), rooms: [...one.holds.keys()] }], { effects: [stopEffect(one)] });
}

/** It runs matches, somebody has been in them, and nobody is. */
function isDeserted(instance: Instance): boolean {
  const berths = matchesOf(instance).flatMap((match) => [...match.berths.values()]);
  return berths.some(({ state }) => state === "left") && berths.every(({ state }) => state !== "taken");
}

/** Watches how long it is deserted. Called after whatever changes who is in there. */
export function watchEmpty({ deadlines }: PoolsPart, one: Instance, at: number): void {
  if (one.emptyMs == null) return;
  if (isDeserted(one)) setDeadline(deadlines, "instance-empty", one.id, at + one.emptyMs);
  else clearDeadline(deadlines, "instance-empty", one.id);
}

/** Whole hours, minutes or seconds. */
function spanText(ms: number): string {
  if (ms >= 3_600_000) return `${Math.floor(ms / 3_600_000)} h`;
  return ms >= 60_000 ? `${Math.floor(ms / 60_000)} min` : `${Math.floor(ms / 1_000)} s`;
}
