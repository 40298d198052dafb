import { isIP } from "node:net";
import { compareBuilds } from "@yellow-harbor/core";
import { type BuildSpec, linesOf, morePortsOf, PLACEHOLDERS, placeholdersIn } from "@yellow-harbor/protocol";
import { isLoopback } from "@yellow-harbor/reach";
import { closest } from "fastest-levenshtein";
import { patternFaults } from "../machines/patterns.ts";
import { scheduleFaults } from "../machines/schedules.ts";
import type { Fault } from "./fault.ts";
import { queueFaults } from "./queue.ts";
import { outOfReach, regionFaults } from "./regions.ts";
import type { Config, PoolConfig } from "./schema.ts";
import { schemaFaults, settingFaults } from "./setting-faults.ts";
import { unknownName } from "./unknown-name.ts";

type RoomKind = Config["roomKinds"][string];

/** Faults between parts that are each right by themselves: names that name nothing, ranges that cannot hold. */
export function referenceFaults(config: Config): Fault[] {
  return [
    ...listenFaults(config),
    ...playerFaults(config),
    ...lobbyViolations(config),
    ...roomKindFaults(config),
    ...levelFaults(config),
    ...poolViolations(config),
    ...buildFaults(config),
    ...idleOverFaults(config),
    ...webhookFaults(config),
    ...(config.tracing?.secret === undefined
      ? []
      : unknownName("secret", config.tracing.secret, config.secrets, ["tracing", "secret"])),
    ...groupFaults(config),
    ...regionFaults(config),
    ...queuesFaults(config),
  ];
}

function listenFaults({ listen, operators }: Config): Fault[] {
  const faults: Fault[] = [];
  if (listen.tls !== undefined && listen.url?.startsWith("https:") !== true) {
    const message =
      "with tls instances reach the service by the name in its certificate: set listen.url, such as https://harbor.example:7420";
    faults.push({ path: ["listen", "tls"], message });
  }
  // Four numbers are meant for an address; a name is looked up when the service starts.
  if (/^[\d.]+$/.test(listen.host) && isIP(listen.host) === 0)
    faults.push({
      path: ["listen", "host"],
      message: `${listen.host} is no address; each of its four numbers is 0 to 255`,
    });
  if (operators.access === "open" && (listen.trustedProxies.length > 0 || !isLoopback(listen.host))) {
    const message =
      "open is for demos on one computer: without listen.trustedProxies, and on a loopback address; leave it out, and operators need a key";
    faults.push({ path: ["operators", "access"], message });
  }
  return faults;
}

function playerFaults({ players: { heartbeatEveryMs, silenceMs, attributes } }: Config): Fault[] {
  const declared = schemaFaults(["players", "attributes"], attributes ?? {});
  if (silenceMs >= 2 * heartbeatEveryMs) return declared;
  const message = `a client that sends a heartbeat every ${heartbeatEveryMs} ms would count as lost between two heartbeats; expected at least twice as much`;
  return [...declared, { path: ["players", "silenceMs"], message }];
}

function lobbyViolations({ lobbies, roomKinds }: Config): Fault[] {
  return Object.entries(lobbies).flatMap(([lobby, { roomKinds: named }]) =>
    named.flatMap((name, n) => unknownName("room kind", name, roomKinds, ["lobbies", lobby, "roomKinds", n])),
  );
}

function roomKindFaults(config: Config): Fault[] {
  const { roomKinds, levels } = config;
  return Object.entries(roomKinds).flatMap(([kind, policy]) => {
    const { levels: named, minPlayers, capacity, sides } = policy;
    return [
      ...nowhereToPlay(kind, policy, config),
      ...settingFaults(kind, policy),
      ...named.flatMap((name, n) => unknownName("level", name, levels, ["roomKinds", kind, "levels", n])),
      ...named.flatMap((name, n) => {
        const min = levels[name]?.players.min ?? 0;
        if (min <= capacity.max) return [];
        const message = `${name} needs ${min} players, and rooms of this kind take at most ${capacity.max}`;
        return [{ path: ["roomKinds", kind, "levels", n], message }];
      }),
      ...(minPlayers > capacity.max
        ? [
            {
              path: ["roomKinds", kind, "minPlayers"],
              message: `expected no more than the largest capacity, ${capacity.max}`,
            },
          ]
        : []),
      ...(sides !== null && sides.names.length * sides.max < minPlayers
        ? [
            {
              path: ["roomKinds", kind, "sides", "max"],
              message: `${sides.names.length} sides of ${sides.max} hold fewer than minPlayers, ${minPlayers}`,
            },
          ]
        : []),
    ];
  });
}

/** Each level of a room kind has to have somewhere to be played. */
function nowhereToPlay(kind: string, { destinations, levels: named }: RoomKind, { levels }: Config): Fault[] {
  return named.flatMap((name, n) => {
    const level = levels[name];
    if (level === undefined) return [];
    const { pool, destinations: own = destinations } = level;
    if (destinations.some((by) => own.includes(by) && (by !== "dedicated" || pool !== undefined))) return [];
    const message = `${name} can be played at none of the room kind's destinations, ${destinations.join(", ")}; give it a pool, or the room kind another destination`;
    return [{ path: ["roomKinds", kind, "levels", n], message }];
  });
}

function levelFaults({ levels, pools }: Config): Fault[] {
  return Object.entries(levels).flatMap(([level, { pool }]) =>
    pool === undefined ? [] : unknownName("pool", pool, pools, ["levels", level, "pool"]),
  );
}

function poolViolations(config: Config): Fault[] {
  const { pools, builds, listen, machines } = config;
  const entries = Object.entries(pools);
  return entries.flatMap(([name, pool], n) => {
    const { from, to } = pool.ports;
    const path = ["pools", name, "ports"];
    const faults = [
      ...unknownName("build", pool.build, builds, ["pools", name, "build"]),
      ...byClientFaults(config, pool).map(({ path, message }) => ({
        path: ["pools", name, "byClient", ...path],
        message,
      })),
      ...pool.machines.flatMap((one, n) =>
        unknownName("machine", one, { ...machines, ...config.machineGroups }, ["pools", name, "machines", n]),
      ),
    ];
    const each = 1 + Math.max(...linesOf(pool).map((line) => morePortsIn(builds[line])));
    const width = Math.floor((to - from + 1) / each) * hostsOf(config, pool).length;
    if (width < pool.max) {
      const message = `the range holds ports for ${width} instances${each > 1 ? ` of ${each} ports each` : ""}, too few for the maximum, ${pool.max}; widen it or lower max`;
      faults.push({ path, message });
    }
    faults.push(...planFaults(pool).map(({ path, message }) => ({ path: ["pools", name, "plan", ...path], message })));
    if (pool.plan !== null && pool.plan.min > pool.max) {
      const message = `the minimum, ${pool.plan.min}, is above the maximum, ${pool.max}`;
      faults.push({ path: ["pools", name, "plan", "min"], message });
    }
    if (listen.port >= from && listen.port <= to) {
      faults.push({ path, message: `the range holds ${listen.port}, the port the service listens on` });
    }
    for (const [other, otherPool] of entries.slice(0, n)) {
      const { ports } = otherPool;
      const isShared = hostsOf(config, pool).some((host) => hostsOf(config, otherPool).includes(host));
      if (isShared && ports.from <= to && from <= ports.to) {
        faults.push({ path, message: `the range overlaps that of pool ${other}, ${ports.from} to ${ports.to}` });
      }
    }
    return faults;
  });
}

const morePortsIn = (spec: BuildSpec | undefined): number => (spec === undefined ? 0 : morePortsOf(spec).length);

/** Schedules that cannot be followed, costs without a price, and spare where no machine of the pool stands. */
function planFaults({ plan, pricePerSecond }: PoolConfig): Fault[] {
  if (plan === null) return [];
  const scheduled = plan.schedule.flatMap((entry, n) =>
    scheduleFaults(entry).map(({ part, message }) => ({ path: ["schedule", n, part], message })),
  );
  if (plan.costPerHour === null || pricePerSecond !== null) return scheduled;
  return [
    ...scheduled,
    { path: ["costPerHour"], message: "needs pricePerSecond of the pool, to know what an instance costs" },
  ];
}

/** Builds that are not there, and ranges of clients that end before they begin. */
function byClientFaults({ builds }: Config, { byClient }: PoolConfig): Fault[] {
  return (Array.isArray(byClient) ? byClient : []).flatMap(({ build, from, to }, n) => [
    ...unknownName("build", build, builds, [n, "build"]),
    ...(from !== undefined && to !== undefined && compareBuilds(from, to) > 0
      ? [{ path: [n, "to"], message: `expected a build that comes after ${from}` }]
      : []),
  ]);
}

/** Hosts whose ports the instances of a pool have. */
const hostsOf = ({ machines, machineGroups }: Config, { host, machines: named }: PoolConfig): string[] =>
  host !== null
    ? [host]
    : // Of a group each machine may have a host of its own.
      [...new Set(named.flatMap((name) => machines[name]?.host ?? hostsOfGroup(name, machineGroups[name]?.limit)))];

const hostsOfGroup = (name: string, limit = 0): string[] => Array.from({ length: limit }, (_, n) => `${name} ${n}`);

/** A group and a machine of one name could not be told apart. */
const groupFaults = (config: Config): Fault[] => [...sameNames(config), ...unplannedFleets(config)];

/** A fleet goes by the plans of its pools: without any it would order nothing. */
const unplannedFleets = ({ machineGroups, pools }: Config): Fault[] =>
  Object.entries(machineGroups).flatMap(([name, { fleet }]) => {
    const own = Object.values(pools).filter((pool) => pool.machines.includes(name));
    if (fleet === null || own.some(({ plan }) => plan !== null)) return [];
    const message =
      "orders machines for the plans of its pools, and none of them has one; give a pool that names this group a plan";
    return [{ path: ["machineGroups", name, "fleet"], message }];
  });

const sameNames = ({ machines, machineGroups }: Config): Fault[] =>
  Object.keys(machineGroups)
    .filter((name) => machines[name] !== undefined)
    .map((name) => ({
      path: ["machineGroups", name],
      message: `there is a machine ${name} too; give one of them another name`,
    }));

function buildFaults({ builds, secrets }: Config): Fault[] {
  return Object.entries(builds).flatMap(([name, spec]) =>
    specFaults(spec, Object.keys(secrets)).map((fault) => ({ ...fault, path: ["builds", name, ...fault.path] })),
  );
}

/** A line that says the match is over ends none where every room that plays on such a server has its result from somebody else. */
function idleOverFaults({ builds, pools, levels, roomKinds }: Config): Fault[] {
  return Object.entries(builds).flatMap(([name, { watch }]) => {
    if (watch?.over === undefined) return [];
    const playedOn = new Set(Object.keys(pools).filter((pool) => pools[pool]?.build === name));
    const kinds = Object.entries(roomKinds).filter(([, { levels: named }]) =>
      named.some((level) => playedOn.has(levels[level]?.pool ?? "")),
    );
    if (kinds.length === 0 || kinds.some(([, { resultBy }]) => resultBy === "instance")) return [];
    const whose = kinds.map(([kind, { resultBy }]) => `${kind}: ${resultBy}`).join(", ");
    const message = `would end no match, since the result is not the instance's (resultBy of ${whose}); leave it out, or set resultBy: instance`;
    return [{ path: ["builds", name, "watch", "over"], message }];
  });
}

/** Faults of a build by itself: placeholders that nobody knows, patterns that cannot be run. */
export function specFaults(spec: BuildSpec, secrets: readonly string[]): Fault[] {
  const { args, environment, assets } = spec;
  const known = [
    ...PLACEHOLDERS,
    ...morePortsOf(spec).map(([purpose]) => `port.${purpose}`),
    ...secrets.map((secret) => `secret.${secret}`),
  ];
  const texts = [
    ...args.map((text, n) => ({ text, path: ["args", n] })),
    ...Object.entries(environment).map(([key, text]) => ({ text, path: ["environment", key] })),
  ];
  const placeholders = texts.flatMap(({ text, path }) =>
    placeholdersIn(text).flatMap((name) => {
      if (name === "assets" && assets === undefined)
        return [{ path, message: "{assets} stands for the folder of assets, and the build names none" }];
      if (known.includes(name)) return [];
      return [{ path, message: `there is no placeholder {${name}}; did you mean {${closest(name, known)}}?` }];
    }),
  );
  return [...placeholders, ...patternFaults(spec)];
}

function queuesFaults(config: Config): Fault[] {
  const { queues, lobbies, roomKinds } = config;
  return Object.entries(queues).flatMap(([name, queue]) => {
    const at = ["queues", name];
    return [
      ...unknownName("lobby", queue.lobby, lobbies, [...at, "lobby"]),
      ...unknownName("room kind", queue.roomKind, roomKinds, [...at, "roomKind"]),
      ...roomTooSmall(queue, roomKinds[queue.roomKind]).map((message) => ({ path: [...at, "roomKind"], message })),
      ...(queue.whenLeft === "backfill" && roomKinds[queue.roomKind]?.lateJoining === "closed"
        ? [
            {
              path: [...at, "whenLeft"],
              message: `room kind ${queue.roomKind} lets nobody in late; expected lateJoining: backfill`,
            },
          ]
        : []),
      ...outOfReach(config, queue).map((message) => ({ path: [...at, "latency", "regions"], message })),
      ...queueFaults(queue).map(({ path, message }) => ({ path: [...at, ...path], message })),
    ];
  });
}

function webhookFaults({ webhooks, secrets, lobbies, players: { textFilter } }: Config): Fault[] {
  const path = ["players", "textFilter", "secrets"];
  const ofFilter = textFilter?.secrets.flatMap((one, n) => unknownName("secret", one, secrets, [...path, n])) ?? [];
  const ofWebhooks = Object.entries(webhooks).flatMap(([name, webhook]) => [
    ...webhook.secrets.flatMap((one, n) => unknownName("secret", one, secrets, ["webhooks", name, "secrets", n])),
    ...webhook.lobbies.flatMap((one, n) => unknownName("lobby", one, lobbies, ["webhooks", name, "lobbies", n])),
  ]);
  return [...ofFilter, ...ofWebhooks];
}

/** A match has to fit into a room of the kind that it becomes. */
function roomTooSmall({ sides, fewer, roomKind }: Config["queues"][string], kind: RoomKind | undefined): string[] {
  if (kind === undefined) return [];
  const players = sides.count * sides.max;
  const fewest = sides.count * Math.min(sides.min ?? sides.max, ...fewer.map(({ min }) => min));
  const faults: string[] = [];
  if (fewest < kind.minPlayers) {
    faults.push(`a match may have ${fewest} players, and rooms of ${roomKind} play with ${kind.minPlayers} at least`);
  }
  if (kind.capacity.max < players) {
    faults.push(`rooms of ${roomKind} hold ${kind.capacity.max}, and a match may have ${players} players`);
  }
  if (kind.sides !== null && (kind.sides.names.length !== sides.count || kind.sides.max < sides.max)) {
    const has = `${kind.sides.names.length} sides of up to ${kind.sides.max}`;
    faults.push(`rooms of ${roomKind} have ${has}, and a match has ${sides.count} of up to ${sides.max}`);
  }
  return faults;
}
