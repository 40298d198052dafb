import type { ConfigName } from "@yellow-harbor/protocol";

export type PlanCommand =
  /** Time to look whether a pool has what it should. */
  | { readonly do: "plan.consider"; readonly pool: ConfigName }
  | { readonly do: "plan.set-mode"; readonly pool: ConfigName; readonly mode: "open" | "paused" }
  | { readonly do: "plan.pin"; readonly pool: ConfigName; readonly instances: number | null };
