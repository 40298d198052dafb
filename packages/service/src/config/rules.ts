import type { HarborRules } from "@yellow-harbor/core";
import { queueRulesOf } from "./queue.ts";
import type { Config } from "./schema.ts";

/** The part of the configuration that decisions are made by. */
export function rulesOf(config: Config): HarborRules {
  const { harbor, players, travel } = config;
  const { prepareMs, boardMs, attempts } = travel;
  const { limit, builds, graceMs } = players;
  return {
    harbor,
    players: { limit, builds, graceMs },
    lobbies: new Map(
      Object.entries(config.lobbies).map(([name, lobby]) => [name, { ...lobby, talk: lobby.talk ?? null }]),
    ),
    roomKinds: new Map(
      Object.entries(config.roomKinds).map(([name, kind]) => {
        const { least, most, preset } = kind.capacity;
        const sides = kind.sides === undefined ? null : { ...kind.sides, apart: kind.sides.apart ?? null };
        return [name, { ...kind, sides, capacity: { least, most, preset: preset ?? most } }];
      }),
    ),
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
    pools: new Map(
      Object.entries(config.pools).map(([name, { environment: _, ...pool }]) => [
        name,
        { ...pool, plan: pool.plan ?? null, host: pool.host ?? null, pricePerS: pool.pricePerS ?? null },
      ]),
    ),
    machines: new Map(
      Object.entries(config.machines).map(([name, { driver, region, host, most, pricePerS }]) => [
        name,
        { driver, host, most, region: region ?? null, pricePerS: pricePerS ?? null },
      ]),
    ),
    queues: new Map(Object.entries(config.queues).map(([name, queue]) => [name, queueRulesOf(queue)])),
    travel: { prepareMs, boardMs, attempts },
  };
}
