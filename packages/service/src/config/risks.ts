import { isLoopback } from "@yellow-harbor/reach";
import type { Config } from "./schema.ts";

/** What a careful engineer would not put on the internet. */
export const RISKS = ["no-tls", "root", "root-instances", "per-address", "probe-any"] as const;
export type RiskName = (typeof RISKS)[number];

export interface Risk {
  readonly name: RiskName;
  /** What is the matter, and what to set. */
  readonly text: string;
}

/** Risks of starting with a configuration. On loopback alone only those remain that programs of other users are one for. */
export function risksOf(config: Config, { isRoot }: { readonly isRoot: boolean }): Risk[] {
  const { listen, players, travel, operators } = config;
  const isPublic = !isLoopback(listen.host);
  const isDemo = operators.access === "open";
  const runsHere = Object.values(config.machines).some(
    ({ driver, runAs }) => driver === "process" && runAs === undefined,
  );
  const hasBuilds = Object.keys(config.pools).length > 0;
  const risks: (Risk | false)[] = [
    isPublic &&
      listen.tls === undefined &&
      listen.trustedProxies.length === 0 && {
        name: "no-tls",
        text: `it listens on ${listen.host} without TLS, where keys and tokens can be read on the way; set listen.tls, or list your proxy in listen.trustedProxies`,
      },
    isPublic &&
      isRoot && {
        name: "root",
        text: "it listens to others as root; run it as a user of its own",
      },
    isRoot &&
      !isDemo &&
      runsHere &&
      hasBuilds && {
        name: "root-instances",
        text: "instances would run as root, and could read the service's secret; set runAs for the machine",
      },
    isPublic &&
      players.perAddress.connections >= players.limit && {
        name: "per-address",
        text: `one address may take all ${players.limit} places of players; set players.perAddress.connections below players.limit`,
      },
    isPublic &&
      travel.probe === "any" && {
        name: "probe-any",
        text: "players can have it try to reach any address; set travel.probe to own or off",
      },
  ];
  return risks.filter((risk) => risk !== false);
}
