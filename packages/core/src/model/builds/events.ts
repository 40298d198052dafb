import type { BuildSpec, ConfigName, RollOut } from "@yellow-harbor/protocol";

export type BuildEvent = { readonly line: ConfigName; readonly version: string } & (
  | {
      readonly kind: "build.added";
      readonly spec: BuildSpec;
      /** How it takes over; null when it is current at once. */
      readonly rollOut: RollOut | null;
      readonly isConfigured: boolean;
    }
  | { readonly kind: "build.stepped"; readonly step: number; readonly share: number; readonly why: string }
  | { readonly kind: "build.promoted"; readonly why: string }
  | {
      readonly kind: "build.rolled-back";
      /** What new instances run from here on; null when there is nothing to go back to. */
      readonly to: string | null;
      readonly why: string;
    }
);
