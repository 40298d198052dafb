import type { BuildSpec, BuildView, ConfigName } from "@yellow-harbor/protocol";
import type { PoolsPart } from "../model/state.ts";
import { isTurnOfCanary, shareOf } from "./roll-out.ts";

export function specOf({ builds }: PoolsPart, line: ConfigName, version: string): BuildSpec | undefined {
  return builds.byLine.get(line)?.versions.get(version)?.spec;
}

/** The version that the next instance of a line runs; undefined when there is none to run. */
export function nextVersion({ builds }: PoolsPart, line: ConfigName): string | undefined {
  const known = builds.byLine.get(line);
  if (known === undefined) return undefined;
  const { canary, current } = known;
  if (canary && (current === null || isTurnOfCanary(canary))) return canary.version;
  return current ?? undefined;
}

/** A version that is being rolled out, and the share that it is to have now. */
export function rollingOut({ builds }: PoolsPart, line: ConfigName): { version: string; share: number } | undefined {
  const canary = builds.byLine.get(line)?.canary;
  return canary == null ? undefined : { version: canary.version, share: shareOf(canary) };
}

/** Whether new rooms go to instances of a version: not when it is on its way out. */
export function takesNewRooms({ builds }: PoolsPart, line: ConfigName, version: string): boolean {
  const known = builds.byLine.get(line);
  return known === undefined || known.current === version || known.canary?.version === version;
}

export function buildView(state: PoolsPart, line: ConfigName, id: string): BuildView | undefined {
  const known = state.builds.byLine.get(line);
  const version = known?.versions.get(id);
  if (!known || !version) return undefined;
  const { launched, failed, matches, spec, addedAtMs, why } = version;
  const running = [...state.pools.instances.values()].filter(
    (one) => !one.gone && one.build === line && one.version === id,
  );
  return {
    line,
    version: id,
    state: version.state,
    why,
    addedAtMs,
    launched,
    failed,
    matches,
    spec,
    ...(known.canary?.version === id && { share: shareOf(known.canary) }),
    running: running.length,
  };
}

/** All versions, the newest of each line first. */
export function buildViews(state: PoolsPart, line?: ConfigName): BuildView[] {
  return [...state.builds.byLine.values()]
    .filter((one) => line === undefined || one.line === line)
    .flatMap((one) => [...one.versions.keys()].reverse().flatMap((id) => buildView(state, one.line, id) ?? []));
}
