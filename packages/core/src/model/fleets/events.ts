import type { ConfigName } from "@yellow-harbor/protocol";

export type FleetEvent = { readonly machine: ConfigName; readonly group: ConfigName } & (
  | { readonly kind: "fleet.ordered"; readonly why: string; readonly joinByMs: number }
  | { readonly kind: "fleet.failed"; readonly why: string }
  /** Nothing needs it: it is given back. */
  | { readonly kind: "fleet.returned"; readonly why: string }
);
