import type { ConfigName, InstanceId } from "@yellow-harbor/protocol";
import type { Lower, Plan, PlanWindow } from "../../planning/plan.ts";

export type PlanEvent =
  | {
      readonly kind: "plan.made";
      readonly pool: ConfigName;
      readonly plan: Plan;
      readonly lower: Lower | null;
      readonly launch: number;
      /** Of these, so many in each region. */
      readonly launchIn?: Readonly<Record<string, number>>;
      readonly retire: readonly InstanceId[];
      /** Taken back instead of ordering others. */
      readonly back?: readonly InstanceId[];
      /** The arithmetic, in a sentence. */
      readonly why: string;
    }
  | { readonly kind: "plan.mode-set"; readonly pool: ConfigName; readonly mode: "open" | "paused" }
  | { readonly kind: "plan.pinned"; readonly pool: ConfigName; readonly instances: number | null }
  /** All times that are on or to come. */
  | {
      readonly kind: "plan.windows-set";
      readonly pool: ConfigName;
      readonly windows: readonly PlanWindow[];
      readonly why: string;
    };
