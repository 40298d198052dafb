import type { ConfigName, MachineMode } from "@yellow-harbor/protocol";
import type { Measure } from "./state.ts";

export type MachineCommand = { readonly machine: ConfigName } & (
  | {
      /** The agent of a machine has connected. */
      readonly do: "machine.join";
      readonly from: string;
    }
  /** One that nobody knows yet wants to be of a group. */
  | { readonly do: "machine.enroll"; readonly group: ConfigName; readonly host: string; readonly from: string }
  /** It has been away for long. */
  | { readonly do: "machine.forget" }
  /** An operator says that it is gone for good. */
  | { readonly do: "machine.remove" }
  /** Its connection is gone. Its instances may well run on: they are heard of by themselves. */
  | { readonly do: "machine.lose"; readonly why: string }
  /** What it has, and what of that is free, by its own word. */
  | { readonly do: "machine.measure"; readonly measure: Measure }
  /** It is about to be taken away, by its own word. */
  | { readonly do: "machine.give-notice"; readonly withinMs: number; readonly why: string | undefined }
  /** Operators want nothing new there, or nothing at all. */
  | {
      readonly do: "machine.set-mode";
      readonly mode: MachineMode;
      readonly withinMs: number | undefined;
      readonly reason: string | undefined;
    }
);
