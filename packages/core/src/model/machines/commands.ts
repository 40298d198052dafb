import type { ConfigName } from "@yellow-harbor/protocol";

export type MachineCommand =
  /** The agent of a machine has connected. */
  | { readonly do: "machine.join"; readonly machine: ConfigName; readonly from: string }
  /** Its connection is gone. Its instances may well run on: they are heard of by themselves. */
  | { readonly do: "machine.lose"; readonly machine: ConfigName; readonly why: string };
