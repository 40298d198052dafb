import type { BuildSpec, ConfigName, RollOut } from "@yellow-harbor/protocol";

export type BuildCommand =
  /** The version that the configuration names: it is current at once. */
  | { readonly do: "build.configure"; readonly line: ConfigName; readonly spec: BuildSpec }
  /** A new version, that takes over step by step. */
  | { readonly do: "build.add"; readonly line: ConfigName; readonly spec: BuildSpec; readonly rollOut: RollOut }
  | {
      readonly do: "build.change";
      readonly line: ConfigName;
      readonly version: string;
      readonly to: "promoted" | "rolled-back";
      readonly reason: string | undefined;
    }
  /** Something became of an instance: a roll-out may go on, or back. */
  | { readonly do: "build.consider"; readonly line: ConfigName };
