import type { RunId } from "@yellow-harbor/protocol";
import type { HarborState } from "../harbor/state.ts";
import type { Travel } from "./state.ts";

export function namesOfWaiting(travel: Travel): string {
  return [...travel.travellers.values()]
    .filter((traveller) => !traveller.arrived)
    .map((traveller) => traveller.name)
    .join(", ");
}

/** Who or what a travel waits for, since when, and what happens at its deadline. */
export function explainTravel(state: HarborState, run: RunId | null, at: number): string[] {
  const travel = run === null ? undefined : state.travels.byRun.get(run);
  if (travel === undefined) return [];
  const since = seconds(at - travel.calledAtMs);
  const left = seconds(travel.deadlineMs - at);
  if (travel.step === "preparing") {
    const instances = [...state.pools.instances.values()];
    const instance = instances.find(
      (one) => one.room === travel.room && one.state !== "ended" && one.state !== "failed",
    );
    const what = instance ? `${instance.id} is ${instance.state}: ${instance.why}` : "none is ordered yet";
    return [
      `Travelling to ${travel.level.id} for ${since}: waiting for an instance of pool ${travel.pool}; ${what}.`,
      `Attempt ${travel.attempt}. Without an instance the room returns to gathering in ${left}.`,
    ];
  }
  return [
    `Travelling to ${travel.level.id} for ${since}: waiting for ${namesOfWaiting(travel)} to board ${travel.destination?.instance}.`,
    `Whoever has not boarded in ${left} brings the room back to gathering.`,
  ];
}

const seconds = (ms: number) => `${Math.max(0, Math.round(ms / 1000))} s`;
