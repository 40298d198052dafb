import type { PlanWindow } from "../planning/plan.ts";

/** Times that are on at a moment. */
export const windowsOn = (windows: readonly PlanWindow[], at: number): PlanWindow[] =>
  windows.filter(({ fromMs, untilMs }) => fromMs <= at && at < untilMs);
