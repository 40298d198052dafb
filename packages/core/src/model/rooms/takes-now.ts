import type { Room } from "./state.ts";

/** Whether the phase lets anybody in. */
export function takesNow({ stage: { phase }, ways }: Room): boolean {
  if (phase === "gathering" || phase === "results") return true;
  return ways.lateJoining === "open" && phase !== "counting";
}
