import type { BuildSpec, BuildVersionState, ConfigName, RollOut } from "@yellow-harbor/protocol";

/** One version of a build line. */
export interface Version {
  readonly version: string;
  readonly addedAtMs: number;
  spec: BuildSpec;
  state: BuildVersionState;
  why: string;
  /** Instances launched of it; of these, how many came up, and how many failed. */
  launched: number;
  opened: number;
  failed: number;
  /** Matches that came to their end on it. */
  matches: number;
}

/** A version that takes over step by step. Counts are those of the step that it is at. */
export interface Canary extends RollOut {
  readonly version: string;
  step: number;
  /** Ordered of it, and of the current version. */
  launched: number;
  othersLaunched: number;
  /** Instances that came up, and matches that were played. */
  successes: number;
  failed: number;
}

export interface BuildLine {
  readonly line: ConfigName;
  readonly versions: Map<string, Version>;
  current: string | null;
  /** What ran before the current version, to go back to. */
  former: string | null;
  canary: Canary | null;
  /** The version that the configuration named last. */
  configured: string | null;
}

export interface BuildsState {
  readonly byLine: Map<ConfigName, BuildLine>;
}

export const newBuildsState = (): BuildsState => ({ byLine: new Map() });
