import {
  BuildSpec,
  BuildString,
  ConfigName,
  DeclaredAttributes,
  Lobby,
  Machine,
  MachineGroup,
  Ms,
  orNull,
  PORT_MAX,
  Pool,
  Port,
  Region,
  RoomKind,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import { isNetwork } from "../front-door/caller.ts";
import { Accounts } from "./accounts.ts";
import { Alerts } from "./alerts.ts";
import { Level } from "./level.ts";
import { Log } from "./log.ts";
import { Queue } from "./queue.ts";
import { Simulated } from "./simulated.ts";
import { TextFilter } from "./text-filter.ts";
import { Tracing } from "./tracing.ts";
import { WaitingLine } from "./waiting-line.ts";
import { Webhook } from "./webhook.ts";

const Listen = z
  .strictObject({
    host: z
      .string()
      .min(1)
      .default("127.0.0.1")
      .meta({ description: "Address to listen on; 0.0.0.0 for every IPv4 one." }),
    port: z
      .int()
      .min(0)
      .max(PORT_MAX)
      .default(7420)
      .meta({ description: "Port for players, operators and instances; 0 takes any free one." }),
    url: z
      .url({ protocol: /^https?$/ })
      .optional()
      .meta({ description: "Address at which instances reach the service, when it is not the one it listens on." }),
    tls: z
      .strictObject({
        certFile: z.string().min(1).meta({ description: "File with the certificate and its chain, in PEM." }),
        keyFile: z.string().min(1).meta({ description: "File with its private key, in PEM." }),
        redirectPort: z.int().min(1).max(PORT_MAX).optional().meta({
          description: "Port at which whoever comes without TLS is sent to the address with it.",
        }),
        hstsDays: z.int().min(0).max(730).default(0).meta({
          description: "How many days browsers are told to come by TLS alone (RFC 6797); 0 to tell them nothing.",
        }),
      })
      .optional()
      .meta({
        description:
          "TLS by the service itself. The files are read again when they change. It needs listen.url, the name in the certificate.",
      }),
    trustedProxies: z
      .array(z.string().refine(isNetwork, "expected an address or a network, such as 10.0.0.5 or 10.0.0.0/8"))
      .max(64)
      .default([])
      .meta({
        description: "Addresses and networks of your own proxies. X-Forwarded-For is believed from these alone.",
      }),
  })
  .prefault({});

const Operators = z
  .strictObject({
    access: z.enum(["key", "open"]).default("key").meta({
      description:
        "key: operators need a key, wherever they come from; the first is in operator.key of the data folder, where yh finds it. open: whoever is on this computer may do everything, for demos; refused beside trusted proxies and on anything but loopback.",
    }),
    sessions: z
      .strictObject({
        idleHours: z.number().positive().max(8_760).default(12).meta({
          description: "After so many hours without a request a session of the console ends.",
        }),
        maxHours: z.number().positive().max(8_760).default(168).meta({
          description: "After so many hours a session of the console ends in any case.",
        }),
      })
      .prefault({}),
    origins: z
      .array(z.url({ protocol: /^https?$/ }).transform((url) => new URL(url).origin))
      .max(64)
      .default([])
      .meta({
        description: "Addresses at which browsers reach the console, when a proxy tells the service another Host.",
      }),
    requestsPerSecond: z.int().min(1).max(1_000_000).default(200).meta({
      description:
        "Requests of each key, or of each address without one, in a second, on average; twice as many at once.",
    }),
    auditDays: z.int().min(1).max(36_500).default(400).meta({
      description: "How many days the audit log is kept.",
    }),
  })
  .prefault({});

const Players = z.strictObject({
  origins: z
    .array(z.url({ protocol: /^https?$/ }).transform((url) => new URL(url).origin))
    .max(64)
    .default([])
    .meta({
      description:
        "Addresses of pages whose games may connect; any when empty. Programs that are no browsers name none, and are let in.",
    }),
  builds: z.array(BuildString).min(1).max(64).meta({ description: "Builds of game clients that are accepted." }),
  attributes: DeclaredAttributes,
  limit: z
    .int()
    .min(1)
    .max(1_000_000)
    .default(10_000)
    .meta({ description: "Maximum of players at once, including those away." }),
  waitingLine: WaitingLine,
  graceMs: Ms(30_000, "How long the place of a lost player who is in no room is kept.", { min: 0 }),
  accounts: Accounts,
  textFilter: TextFilter.optional(),
  resumeDays: z.int().min(1).max(366).default(7).meta({
    description: "How long a resume token is good for. Each welcome brings a new one.",
  }),
  helloMs: Ms(10_000, "How long a new connection may take to say hello."),
  heartbeatEveryMs: Ms(2_000, "How often a client sends a heartbeat, and how often its connection is pinged.", {
    min: 100,
  }),
  // Three heartbeats may be lost on the way, and a phone may change from one network to the other.
  silenceMs: Ms(8_000, "After this long without a sign of life a player counts as lost.", { min: 200 }),
  framesPerSecond: z
    .int()
    .min(1)
    .max(100_000)
    .default(50)
    .meta({ description: "Frames a player may send in a second, on average." }),
  perAddress: z
    .strictObject({
      connections: z.int().min(1).max(1_000_000).default(1_000).meta({
        description: "Maximum of player connections from one address; an IPv6 /64 network counts as one.",
      }),
      sockets: z.int().min(1).max(1_000_000).default(2_000).meta({
        description:
          "Maximum of connections of any kind from one address, plain HTTP too. Your own proxies are not counted.",
      }),
      perSecond: z.int().min(1).max(1_000_000).default(200).meta({
        description: "New connections from one address in a second, on average; twice as many at once.",
      }),
    })
    .prefault({}),
  compression: orNull(
    z.strictObject({
      minBytes: z.int().min(64).max(65_536).default(512).meta({ description: "Smaller frames go out as they are." }),
    }),
  ).meta({
    description:
      "Whether frames are compressed (permessage-deflate, RFC 7692) for clients that take it: fewer bytes, more processor time; not when left out.",
  }),
  unreadBytes: z
    .int()
    .min(65_536)
    .max(268_435_456)
    .default(1_048_576)
    .meta({ description: "A connection with more unread bytes than this is closed; the client may resume." }),
});

/** What only this service knows of a machine is how a simulated one behaves. */
const MachineHere = Machine.extend({
  runAs: z
    .string()
    .regex(/^[a-z_][a-z0-9_-]{0,31}\$?$/i, "expected the name of a user")
    .optional()
    .meta({
      description:
        "With driver process: user that instances run as, without the service's groups or rights. It needs root.",
    }),
  cgroups: z
    .union([z.enum(["auto", "off"]), z.string().regex(/^\//, "expected auto, off or an absolute path")])
    .default("auto")
    .meta({
      description:
        "With driver process: where each instance gets a control group (version 2), so that all it starts ends with it and limits are held by the system. auto: in the service's own, where it has one, as in a unit with Delegate=yes; or a folder.",
    }),
  tokensFrom: z.iso.datetime({ offset: true }).optional().meta({
    description:
      "With driver agent: tokens that were made before this time are refused, so that new ones replace them.",
  }),
  simulated: Simulated.optional().meta({ description: "How a simulated machine behaves." }),
});
export type MachineConfig = z.output<typeof MachineHere>;

const GroupHere = MachineGroup.extend({
  tokensFrom: z.iso.datetime({ offset: true }).optional().meta({
    description:
      "Tokens of the group that were made before this time are refused; machines that have joined keep theirs.",
  }),
});

const Travel = z
  .strictObject({
    prepareMs: Ms(45_000, "From the start until members are told the address."),
    boardMs: Ms(30_000, "From the address until everybody has arrived."),
    attempts: z.int().min(1).max(10).default(3).meta({
      description: "Maximum of instances that are tried for one travel, and of restarts in a row of a lost run.",
    }),
    localWorlds: z.enum(["own", "any"]).default("own").meta({
      description:
        "Which private, link-local and loopback addresses of a member's world are told to the others: those of a member who comes from such a network itself; or any, for networks of your own.",
    }),
    probe: z.enum(["own", "any", "off"]).default("own").meta({
      description:
        "Which addresses of a member's world the service tries to reach: only the one the member itself comes from; any that it names, for networks of your own; none.",
    }),
  })
  .prefault({});

const InstanceRelay = z
  .strictObject({
    enabled: z.boolean().default(false).meta({
      description: "Whether players may reach instances through the service, at /v1/relay/INSTANCE, over its TLS.",
    }),
    connections: z
      .int()
      .min(1)
      .max(1_000_000)
      .default(500)
      .meta({ description: "Maximum of such connections at once." }),
    bytesPerSecond: z.int().min(1_024).max(1_000_000_000).default(131_072).meta({
      description: "Bytes per second of each connection, each way, on average; more is delayed.",
    }),
    idleMs: Ms(60_000, "After this long without a byte either way a connection is closed."),
  })
  .prefault({});

const Output = z
  .strictObject({
    keepBytes: z.int().min(4_096).max(10_000_000_000).default(8_388_608).meta({
      description: "Size at which the log of each stream of an instance is rotated, replacing the rotated log before.",
    }),
    keepMs: Ms(7 * 86_400_000, "How long the output of an instance is kept after it was last written.", {
      min: 60_000,
      max: 366 * 86_400_000,
    }),
  })
  .prefault({})
  .meta({ description: "What instances print." });

const JournalConfig = z
  .strictObject({
    snapshotEvery: z
      .int()
      .min(100)
      .max(10_000_000)
      .default(50_000)
      .meta({ description: "Minimum of events between two snapshots." }),
    keepEvents: z.int().min(1_000).max(1_000_000_000).default(1_000_000).meta({
      description: "How many of the newest events are kept. Older ones are removed once a snapshot replaces them.",
    }),
    keepBytes: z.int().min(16_777_216).max(10_000_000_000_000).default(4_294_967_296).meta({
      description:
        "Maximum size of the journal; beyond it older events are removed even if there are fewer than keepEvents.",
    }),
  })
  .prefault({});

/** Where a secret is kept: in a file, or in the service's own environment. */
const Secret = z.union(
  [
    z.strictObject({
      file: z.string().min(1).max(4_096).meta({ description: "File with the secret in its first line." }),
    }),
    z.strictObject({
      environment: z.string().min(1).max(128).meta({ description: "Variable of the service's environment." }),
    }),
  ],
  { error: "expected file or environment, and what it is called" },
);
export type SecretConfig = z.output<typeof Secret>;

const HERE = MachineHere.parse({});

/** The configuration file. What names something must name something that is there: see `references.ts`. */
export const Config = z
  .strictObject({
    harbor: ConfigName.meta({ description: "Name of the harbor." }),
    listen: Listen,
    data: z
      .string()
      .min(1)
      .default("data")
      .meta({ description: "Data folder; relative paths count from the configuration file." }),
    operators: Operators,
    players: Players,
    lobbies: z
      .record(ConfigName, Lobby)
      .refine((lobbies) => Object.keys(lobbies).length > 0, "expected at least one lobby"),
    roomKinds: z.record(ConfigName, RoomKind),
    levels: z.record(ConfigName, Level),
    builds: z.record(ConfigName, BuildSpec).default({}),
    machines: z
      .record(ConfigName, MachineHere)
      .default({})
      .transform((named): Record<string, MachineConfig> => ({ here: HERE, ...named })),
    machineGroups: z.record(ConfigName, GroupHere).default({}).meta({
      description: "Groups of machines whose agents join by themselves, with a token of the group.",
    }),
    secrets: z.record(ConfigName, Secret).default({}).meta({
      description:
        "What builds name as {secret.NAME} in their arguments and environment, and webhooks sign with. It is read at each use, and is in no event, answer or log.",
    }),
    regions: z.record(ConfigName, Region).default({}).meta({
      description:
        "Regions by the names that machines and queues have for them, with where players measure their latency.",
    }),
    pools: z.record(ConfigName, Pool).default({}),
    queues: z.record(ConfigName, Queue).default({}),
    travel: Travel,
    instanceRelay: InstanceRelay,
    echo: z
      .strictObject({
        udpPort: Port.optional().meta({
          description:
            "Port at which the service answers echoes by UDP; none when left out. By WebSocket it does at /v1/echo.",
        }),
      })
      .prefault({}),
    webhooks: z.record(ConfigName, Webhook).default({}),
    tracing: Tracing,
    alerts: Alerts,
    output: Output,
    journal: JournalConfig,
    log: Log,
  })
  .meta({ title: "Yellow Harbor configuration" });
export type Config = z.output<typeof Config>;
export type PoolConfig = z.output<typeof Pool>;
