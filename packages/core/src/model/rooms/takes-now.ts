import type { Room } from "./state.ts";

/** Whether the phase lets anybody in. */
export function takesNow({ stage: { phase }, policy }: Room): boolean {
  if (phase === "gathering" || phase === "results") return true;
  return policy.lateJoining === "open" && phase !== "counting";
}
