import type { ConfigName } from "@yellow-harbor/protocol";

export type FleetCommand =
  /** Time to look whether a group has the machines that its pools need. */
  | { readonly do: "fleet.consider"; readonly group: ConfigName }
  /** A machine that was ordered will not come: its order failed, or it has not joined in time. */
  | { readonly do: "fleet.fail"; readonly machine: ConfigName; readonly why: string };
