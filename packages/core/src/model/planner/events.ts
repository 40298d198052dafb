import type { ConfigName, InstanceId } from "@yellow-harbor/protocol";
import type { Lower, Plan } from "../../planning/plan.ts";

export type PlanEvent =
  | {
      readonly kind: "plan.made";
      readonly pool: ConfigName;
      readonly plan: Plan;
      readonly lower: Lower | null;
      readonly launch: number;
      readonly retire: readonly InstanceId[];
      /** Taken back instead of ordering others. */
      readonly back?: readonly InstanceId[];
      /** The arithmetic, in a sentence. */
      readonly why: string;
    }
  | { readonly kind: "plan.mode-set"; readonly pool: ConfigName; readonly mode: "open" | "paused" }
  | { readonly kind: "plan.pinned"; readonly pool: ConfigName; readonly instances: number | null };
