import { BuildString, CAPACITY_MAX, CAPACITY_MIN, ConfigName, PORT_MAX } from "@yellow-harbor/protocol";
import { z } from "zod";

const Ms = (preset: number, about: string, { min = 1, max = 86_400_000 } = {}) =>
  z
    .int()
    .min(min)
    .max(max)
    .default(preset)
    .meta({ description: `${about} In milliseconds.` });

const Capacity = z.int().min(CAPACITY_MIN).max(CAPACITY_MAX);
const Port = z.int().min(1).max(PORT_MAX);

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
  })
  .prefault({});

const Operators = z
  .strictObject({
    access: z.enum(["loopback", "token"]).default("loopback").meta({
      description:
        "loopback: operators on this computer need no token while the service listens on a loopback address, everybody else does. token: everybody needs it.",
    }),
  })
  .prefault({});

const Players = z.strictObject({
  builds: z.array(BuildString).min(1).max(64).meta({ description: "Builds of game clients that are let in." }),
  limit: z
    .int()
    .min(1)
    .max(1_000_000)
    .default(10_000)
    .meta({ description: "Most players known at once, those away included." }),
  graceMs: Ms(30_000, "How long a lost player who is in no room is waited for.", { min: 0 }),
  helloMs: Ms(10_000, "How long a new connection may take to say hello."),
  pingEveryMs: Ms(5_000, "How often each connection is pinged."),
  silenceMs: Ms(15_000, "After so long without a sign of life a connection counts as lost."),
  framesPerSecond: z
    .int()
    .min(1)
    .max(100_000)
    .default(50)
    .meta({ description: "Frames a player may send in a second, on average." }),
  unreadBytes: z
    .int()
    .min(65_536)
    .max(268_435_456)
    .default(1_048_576)
    .meta({ description: "A connection with more unread bytes than this is cut; it may resume." }),
});

const Lobby = z.strictObject({
  title: z.string().min(1).max(64),
  roomKinds: z
    .array(ConfigName)
    .min(1)
    .max(32)
    .meta({ description: "Room kinds that may be opened here, the preset first." }),
});

const RoomKind = z.strictObject({
  capacity: z
    .strictObject({ least: Capacity.default(CAPACITY_MIN), most: Capacity, preset: Capacity.optional() })
    .refine((c) => c.least <= c.most, { message: "expected least to be no more than most", path: ["least"] })
    .refine((c) => c.preset === undefined || (c.least <= c.preset && c.preset <= c.most), {
      message: "expected preset to lie between least and most",
      path: ["preset"],
    }),
  leastPlayers: Capacity.default(2).meta({ description: "Fewest members with which a room may start." }),
  levels: z.array(ConfigName).min(1).max(256),
  graceMs: Ms(30_000, "How long the place of a lost member is kept.", { min: 0 }),
  countdownMs: Ms(0, "From start until the travel begins, 0 for at once.", { min: 0, max: 600_000 }),
  autoStart: z
    .boolean()
    .default(false)
    .meta({ description: "Whether a room starts by itself once nothing is missing." }),
  board: z
    .strictObject({
      entries: z.int().min(0).max(1_000).default(64).meta({ description: "Most entries on a room's board." }),
      bytes: z
        .int()
        .min(16)
        .max(16_384)
        .default(2_048)
        .meta({ description: "Largest value of an entry, in bytes of JSON." }),
      totalBytes: z
        .int()
        .min(16)
        .max(1_048_576)
        .default(16_384)
        .meta({ description: "All values together, in bytes of JSON." }),
    })
    .prefault({}),
  relay: z
    .strictObject({
      perSecond: z
        .int()
        .min(1)
        .max(100_000)
        .default(30)
        .meta({ description: "Messages a member may relay in a second, on average." }),
      bytes: z
        .int()
        .min(16)
        .max(16_384)
        .default(1_024)
        .meta({ description: "Largest body of a relayed message, in bytes of JSON." }),
    })
    .prefault({}),
});

const Level = z.strictObject({
  title: z.string().min(1).max(64),
  players: z
    .strictObject({ least: Capacity, most: Capacity })
    .refine((p) => p.least <= p.most, { message: "expected least to be no more than most", path: ["least"] }),
  pool: ConfigName.meta({ description: "Pool whose instances run this level." }),
});

const Build = z.strictObject({
  command: z
    .string()
    .min(1)
    .max(4096)
    .meta({ description: "Program to start; relative paths count from the configuration file." }),
  args: z
    .array(z.string().max(4096))
    .max(64)
    .default([])
    .meta({ description: "May hold the placeholders {host}, {port} and {instance}." }),
  environment: z.record(z.string().regex(/^[A-Za-z_][A-Za-z0-9_]*$/), z.string().max(4096)).default({}),
});

const Pool = z.strictObject({
  build: ConfigName,
  host: z.string().min(1).default("127.0.0.1").meta({ description: "Host at which players reach the instances." }),
  ports: z
    .strictObject({ from: Port, to: Port })
    .refine((p) => p.from <= p.to, { message: "expected from to be no more than to", path: ["from"] })
    .meta({ description: "Port range, both ends included; each instance gets a port of its own." }),
  most: z.int().min(1).max(10_000).default(10).meta({ description: "Most instances at once." }),
  bootMs: Ms(20_000, "From the order until an instance is announced and reached."),
  silenceMs: Ms(15_000, "After so long without a pulse an instance counts as failed."),
  stopMs: Ms(5_000, "From the order to stop until a signal, and from the signal until the process is killed."),
  portRestMs: Ms(10_000, "How long a port rests after its instance has ended.", { min: 0 }),
  forgetMs: Ms(60_000, "How long an ended instance stays in view.", { min: 0 }),
});

const Travel = z
  .strictObject({
    prepareMs: Ms(45_000, "From the start until the address is told."),
    boardMs: Ms(30_000, "From the address until everybody has arrived."),
    attempts: z.int().min(1).max(10).default(3).meta({ description: "How many instances are tried for one travel." }),
  })
  .prefault({});

const JournalConfig = z
  .strictObject({
    snapshotEvery: z
      .int()
      .min(100)
      .max(10_000_000)
      .default(50_000)
      .meta({ description: "Events between two snapshots." }),
  })
  .prefault({});

const Log = z
  .strictObject({ level: z.enum(["trace", "debug", "info", "warn", "error", "fatal", "silent"]).default("info") })
  .prefault({});

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
    builds: z.record(ConfigName, Build),
    pools: z.record(ConfigName, Pool),
    travel: Travel,
    journal: JournalConfig,
    log: Log,
  })
  .meta({ title: "Yellow Harbor configuration" });
export type Config = z.output<typeof Config>;
export type BuildConfig = Config["builds"][string];
