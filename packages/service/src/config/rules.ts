import type { Entropy, HarborRules } from "@yellow-harbor/core";
import { queueRulesOf } from "./queue.ts";
import type { Config } from "./schema.ts";

/** The part of the configuration that decisions are made by. */
export function rulesOf(config: Config, codeKey: Entropy): HarborRules {
  const { harbor, players, travel } = config;
  const { prepareMs, boardMs, attempts } = travel;
  const { limit, builds, graceMs, accounts, attributes } = players;
  return {
    harbor,
    codeKey,
    share: { number: 0, of: 1 },
    players: { limit, builds, graceMs, sameAccount: accounts.sameAccount, attributes },
    lobbies: new Map(Object.entries(config.lobbies)),
    roomKinds: new Map(Object.entries(config.roomKinds)),
    regions: new Map(Object.entries(config.regions)),
    levels: new Map(
      Object.entries(config.levels).map(([name, { title, players: suits, pool, destinations, attributes, spread }]) => [
        name,
        {
          title,
          ...suits,
          pool: pool ?? null,
          destinations: destinations ?? null,
          attributes:
            attributes === undefined ? null : Object.entries(attributes).map(([name, value]) => ({ name, value })),
          spread: spread ?? null,
        },
      ]),
    ),
    // What a process is started with besides, and how a simulated machine behaves, no decision looks at.
    pools: new Map(Object.entries(config.pools).map(([name, { environment: _, ...pool }]) => [name, pool])),
    machineGroups: new Map(
      Object.entries(config.machineGroups).map(([name, { tokensFrom: _, ...group }]) => [name, group]),
    ),
    machines: new Map(
      Object.entries(config.machines).map(
        ([name, { simulated: _, runAs: __, tokensFrom: ___, cgroups: ____, ...machine }]) => [name, machine],
      ),
    ),
    queues: new Map(Object.entries(config.queues).map(([name, queue]) => [name, queueRulesOf(queue)])),
    matcher: "apart",
    travel: { prepareMs, boardMs, attempts },
  };
}
