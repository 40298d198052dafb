import type { ConfigName, MachineMode } from "@yellow-harbor/protocol";
import type { Measure } from "./state.ts";

export type MachineEvent = { readonly machine: ConfigName } & (
  | { readonly kind: "machine.joined"; readonly from: string }
  | { readonly kind: "machine.enrolled"; readonly group: ConfigName; readonly host: string }
  | { readonly kind: "machine.removed"; readonly why: string }
  | { readonly kind: "machine.lost"; readonly why: string; readonly forgetAtMs?: number }
  | { readonly kind: "machine.measured"; readonly measure: Measure }
  | {
      readonly kind: "machine.mode-set";
      readonly mode: MachineMode;
      readonly why: string;
      /** With draining: when what is left there is stopped. */
      readonly untilMs?: number;
    }
);
