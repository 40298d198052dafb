import { morePortsOf, type PoolRules } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { PoolsState } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";

/** How many instances of a pool find ports on a host, up to so many. */
export function portsLeft(state: PoolsPart, rules: PoolRules, host: string, at: number, max: number): number {
  const version = builds.views.nextVersion(state, rules.build);
  const spec = version === undefined ? undefined : builds.views.spec(state, rules.build, version);
  const each = 1 + (spec === undefined ? 0 : morePortsOf(spec).length);
  return Math.floor(freePorts(state.pools, { ...rules, host }, at, max * each).length / each);
}

/** Free ports of a host, at most so many: those behind the last one that was given first, then on from the beginning. */
export function freePorts(
  pools: PoolsState,
  { host, ports: { from, to }, portRestMs }: Pick<PoolRules, "ports" | "portRestMs"> & { readonly host: string },
  at: number,
  max: number,
  last = to,
): number[] {
  // Ports belong to a host, whichever pools share it.
  const known = pools.ports.get(host);
  const many = to - from + 1;
  const start = last >= from && last < to ? last + 1 - from : 0;
  const free: number[] = [];
  const resting: { readonly port: number; readonly freeFrom: number }[] = [];
  for (let n = 0; n < many && free.length < max; n++) {
    const port = from + ((start + n) % many);
    const freeFrom = known?.get(port);
    if (freeFrom === undefined || (freeFrom !== null && freeFrom <= at)) free.push(port);
    // Held longer than it rests: somebody else was found at it.
    else if (freeFrom !== null && freeFrom - at <= portRestMs) resting.push({ port, freeFrom });
  }
  // Resting is for when there are others: before a room is refused, the port that has rested longest is used again.
  resting.sort((a, b) => a.freeFrom - b.freeFrom);
  for (const { port } of resting.slice(0, max - free.length)) free.push(port);
  return free;
}
