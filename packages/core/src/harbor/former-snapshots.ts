import { builds } from "../builds/index.ts";
import type { KeptState } from "../model/state.ts";

/** Turns the state of a snapshot of one version into that of the next, in place. */
type Step = (state: KeptState) => void;

/** By the version that a step begins with. What stands here is never changed or left out: files outlive releases. */
const steps: ReadonlyMap<number, Step> = new Map([[11, withTransports]]);

/** The oldest version of a snapshot that can be read. */
export const OLDEST_SNAPSHOT_VERSION = 11;

/** Brings the state of a snapshot up to a version. */
export function bringUp(state: KeptState, from: number, to: number): void {
  for (let version = from; version < to; version++) steps.get(version)?.(state);
}

/** Builds said what they speak under another name; matches had no scores yet, and instances no longest empty time. */
function withTransports(state: KeptState): void {
  for (const [id, instance] of state.pools.instances) {
    const holds = [...instance.holds].map(([room, match]) => [room, match && { ...match, scores: new Map() }] as const);
    state.pools.instances.set(id, { ...instance, holds: new Map(holds), emptyMs: null });
  }
  for (const { versions } of state.builds.byLine.values()) {
    for (const version of versions.values()) version.spec = builds.upcast(version.spec);
  }
}
