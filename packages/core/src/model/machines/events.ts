import type { ConfigName } from "@yellow-harbor/protocol";

export type MachineEvent = { readonly machine: ConfigName } & (
  | { readonly kind: "machine.joined"; readonly from: string }
  | { readonly kind: "machine.lost"; readonly why: string }
);
