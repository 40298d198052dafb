import type { ConfigName } from "@yellow-harbor/protocol";
import type { PlanWindow } from "../../planning/plan.ts";

export type PlanCommand =
  /** Time to look whether a pool has what it should. */
  | { readonly do: "plan.consider"; readonly pool: ConfigName }
  | { readonly do: "plan.set-mode"; readonly pool: ConfigName; readonly mode: "open" | "paused" }
  | { readonly do: "plan.pin"; readonly pool: ConfigName; readonly instances: number | null }
  /** Times by the schedule of a pool: those that are on or next. What the schedule no longer has is gone. */
  | { readonly do: "plan.schedule"; readonly pool: ConfigName; readonly windows: readonly PlanWindow[] }
  | {
      readonly do: "plan.warm";
      readonly pool: ConfigName;
      readonly fromMs: number | undefined;
      readonly lastsMs: number;
      readonly min: number;
      readonly spare: number;
      readonly reason: string | undefined;
    }
  | { readonly do: "plan.cool"; readonly pool: ConfigName; readonly window: string };
