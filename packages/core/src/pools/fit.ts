import type { ConfigName, PoolRules } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { Instance } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";

/** What a room's instance has to run. */
export interface Fit {
  readonly line: ConfigName;
  /** This one alone; whichever of the line takes new rooms when absent. */
  readonly version: string | undefined;
  /** Build of the room's clients, where somebody waits. */
  readonly client: string | undefined;
  /** Why that build, where there was something to choose. */
  readonly why: string | undefined;
}

/** What a pool runs for clients of a build, and for whoever comes when nobody is there yet; or why it has nothing for them. */
export function fitFor(
  state: PoolsPart,
  pool: PoolRules,
  client: string | undefined,
): Fit | { readonly refused: string } {
  const { build, byClient } = pool;
  const other = { line: build, version: undefined, client, why: undefined };
  if (client === undefined || byClient === null) return other;
  if (byClient === "exact") return exactly(state, build, client);
  for (const one of byClient) {
    const why = whyFor(one, client);
    if (why !== undefined) return { line: one.build, version: undefined, client, why };
  }
  return { ...other, why: `${build} is for all clients that no other is for, such as ${client}` };
}

/** The version that has the name of the clients' build. */
function exactly(state: PoolsPart, line: ConfigName, client: string): Fit | { readonly refused: string } {
  const known = state.builds.byLine.get(line)?.versions;
  const version = known?.get(client);
  if (version !== undefined && version.state !== "rolled-back")
    return { line, version: client, client, why: `version ${client} is that of its players' clients` };
  const there = [...(known?.keys() ?? [])].join(", ");
  const rolledBack = version === undefined ? "" : `; ${client} was rolled back`;
  return {
    refused: `Build line ${line} has no version ${client}, as its players' clients run; it has ${there}${rolledBack}.`,
  };
}

type ForClients = Exclude<NonNullable<PoolRules["byClient"]>, "exact">[number];

/** Why a build is for such clients; undefined when it is not. */
function whyFor({ build, clients, from, to }: ForClients, client: string): string | undefined {
  if (clients !== undefined) return clients.includes(client) ? `${build} is for clients of ${client}` : undefined;
  if (from !== undefined && compareBuilds(client, from) < 0) return undefined;
  if (to !== undefined && compareBuilds(client, to) > 0) return undefined;
  const range = [...(from === undefined ? [] : [`from ${from}`]), ...(to === undefined ? [] : [`to ${to}`])];
  return `${build} is for clients ${range.join(" ")}, and its players' run ${client}`;
}

/** Whether an instance runs what is wanted, and takes new rooms. */
export function runsFit(state: PoolsPart, one: Instance, { line, version, client }: Fit): boolean {
  if (one.gone || one.build !== line || (one.client !== null && one.client !== client)) return false;
  return version === undefined ? builds.views.takesNewRooms(state, line, one.version) : one.version === version;
}

/** The version that a new instance runs; undefined when there is none to run. */
export const versionFor = (state: PoolsPart, { line, version }: Fit): string | undefined =>
  version ?? builds.views.nextVersion(state, line);

/** Names of builds in the order that people expect: numbers in them count as numbers, so that 0.10 comes after 0.9. */
export function compareBuilds(one: string, other: string): number {
  const parts = (text: string) => text.match(/\d+|\D+/g) ?? [];
  const [a, b] = [parts(one), parts(other)];
  for (let n = 0; n < Math.max(a.length, b.length); n++) {
    const [left = "", right = ""] = [a[n], b[n]];
    const byNumber = /^\d/.test(left) && /^\d/.test(right) ? Number(left) - Number(right) : 0;
    if (byNumber !== 0) return byNumber;
    if (left !== right) return left < right ? -1 : 1;
  }
  return 0;
}
