import type {
  BuildSpec,
  MachineGroupRules,
  MachineRules,
  PlanRules,
  PoolRules,
  RoomKindRules,
  RoomPolicy,
} from "@yellow-harbor/protocol";
import type { DeclaredAttributes } from "../model/players/attributes.ts";
import type { QueueRules } from "../model/queues/rules.ts";
import type { RatingRules } from "../model/ratings/rules.ts";
import type { HarborRules, LevelRules } from "../model/rules.ts";

/** As little as a room kind may say. */
const PLAIN_POLICY: RoomPolicy = {
  minPlayers: 2,
  graceMs: 30_000,
  countdownMs: 0,
  autoStart: false,
  starters: "host",
  readiness: "all",
  clearsReady: [],
  hostEcho: false,
  friendsJoin: false,
  signals: null,
  hostGoes: "hand-over",
  hostGraceMs: 86_400_000,
  nextHost: "longest-present",
  invites: "members",
  resultPayload: "back-end",
  inviteMs: 10_000,
  spectators: null,
  idle: null,
  series: null,
  lateJoining: "closed",
  emptyMs: 0,
  sides: null,
  resultBy: "instance",
  resultsMs: 0,
  playMs: 0,
  destinations: ["dedicated"],
  stragglers: "wait",
  onLoss: "end",
  levelBy: "host",
};

/** Rules for tests: one lobby, ten room kinds, five levels, two pools of three ports. */
/** By the results of a queue's matches, of an attribute that its matches are not made by. */
export const testRating: RatingRules = {
  attribute: "renown",
  start: 1_500,
  deviation: 350,
  volatility: 0.06,
  tau: 0.5,
  periodMs: 86_400_000,
  leavers: "lose",
};

/** What players of the tests may have: nothing, until they say so. */
const testAttributes: DeclaredAttributes = {
  lantern: { type: "string", enum: ["amber", "green"] },
  stones: { type: "integer", minimum: 0, maximum: 9 },
  rank: { type: "integer", readOnly: true },
};

export function testRules(change: Partial<HarborRules> = {}): HarborRules {
  const level = (title: string, min: number, max: number, more: Partial<LevelRules> = {}): LevelRules => ({
    title,
    min,
    max,
    pool: "sluice",
    destinations: null,
    attributes: null,
    spread: null,
    ...more,
  });
  const crews = {
    ...PLAIN_POLICY,
    capacity: { min: 1, max: 6, default: 4 },
    levels: ["brine-gate", "gull-flats"],
    graceMs: 10_000,
    relay: { perSecond: 30, bytes: 1_024 },
    settings: null,
    variants: {},
    board: { entries: 4, bytes: 64, totalBytes: 160 },
    privateEntries: { perMember: 16, bytes: 2_048, totalBytes: 65_536 },
  };
  const pool = (from: number): PoolRules => ({
    build: "breakwater",
    machines: ["here"],
    host: null,
    ports: { from, to: from + 2 },
    max: 3,
    bootMs: 20_000,
    stopMs: 3_000,
    silenceMs: 15_000,
    portRestMs: 5_000,
    forgetMs: 10_000,
    drainMs: 60_000,
    plan: null,
    reuse: "room",
    byClient: null,
    placement: { by: "spread", apart: false },
    pricePerSecond: null,
  });
  const sides = { names: ["north", "south"], max: 2, apart: 1 };
  const pairs: QueueRules = {
    title: "Pairs",
    lobby: "quayside",
    roomKind: "sided",
    searchMs: 30_000,
    passEveryMs: 500,
    vouched: [],
    confirm: null,
    whenLeft: "play-on",
    rating: null,
    leavers: null,
    backfill: { withinMs: 20_000, max: 2 },
    match: {
      sides: { count: 2, min: 1, max: 1, uneven: false },
      party: { max: 1, together: true },
      needs: [{ attribute: "build", must: "equal" }],
      closeness: [
        {
          attribute: "skill",
          party: "mean",
          weight: 1,
          gap: [
            [0, 50],
            [10, 300],
          ],
        },
      ],
      latency: null,
      lineUp: null,
      fewer: [],
      choose: { by: "oldest" },
      prefer: [],
      priority: null,
    },
  };
  const roomKinds = new Map<string, RoomKindRules>([
    ["crews", crews],
    ["counted", { ...crews, countdownMs: 3_000 }],
    ["eager", { ...crews, idle: { askAfterMs: 6_000, answerMs: 2_000 }, countdownMs: 3_000, autoStart: true }],
    [
      "sided",
      {
        ...crews,
        spectators: { max: 2, delayMs: 0 },
        series: { bestOf: 3, swapSides: true },
        sides,
        clearsReady: ["level", "settings", "sides", "members"],
        resultsMs: 4_000,
      },
    ],
    [
      "open-house",
      {
        ...crews,
        hostEcho: true,
        lateJoining: "open",
        spectators: { max: 2, delayMs: 3_000 },
        readiness: "here",
        emptyMs: 3_000,
        hostGraceMs: 2_000,
        nextHost: "lowest-latency",
        starters: "anyone",
        resultBy: "host",
        resultsMs: 4_000,
      },
    ],
    // Where there are several ways to be together, and several to deal with who is late.
    [
      "hosted",
      {
        ...crews,
        spectators: { max: 2, delayMs: 2_000 },
        destinations: ["player-hosted", "relayed"],
        stragglers: "drop",
        lateJoining: "open",
        resultBy: "host",
      },
    ],
    [
      "relayed",
      {
        ...crews,
        destinations: ["relayed"],
        stragglers: "go-without",
        lateJoining: "open",
        resultBy: "host",
        spectators: { max: 1, delayMs: 0 },
      },
    ],
    [
      "anywhere",
      {
        ...crews,
        destinations: ["dedicated", "player-hosted", "relayed"],
        stragglers: "go-without",
        onLoss: "move",
        levelBy: "rotation",
        levels: ["brine-gate", "far-sound", "gull-flats"],
        resultsMs: 4_000,
      },
    ],
    ["voting", { ...crews, levelBy: "vote", stragglers: "drop", resultBy: "host", destinations: ["relayed"] }],
    ["host-bound", { ...crews, hostGoes: "close", readiness: "none", resultBy: "operator" }],
  ]);
  return {
    harbor: "test-harbor",
    codeKey: [1, 2, 3, 4],
    share: { number: 37, of: 64 },
    players: { limit: 100, builds: ["game-1"], graceMs: 5_000, sameAccount: "take-over", attributes: testAttributes },
    lobbies: new Map([
      [
        "quayside",
        {
          title: "Quayside",
          roomKinds: [...roomKinds.keys()],
          quickJoinBy: ["places", "latency", "age"],
          namesUpTo: 6,
          guests: true,
          uniqueNames: false,
          chat: null,
          directMessages: null,
          party: { maxSize: 4, invites: "anybody", inviteMs: 10_000, leaderGraceMs: 2_000 },
        },
      ],
    ]),
    roomKinds,
    regions: new Map([
      ["north-quay", { echo: ["udp://203.0.113.9:7431"] }],
      ["south-quay", { title: "South Quay", echo: [] }],
    ]),
    levels: new Map([
      [
        "brine-gate",
        level("Brine Gate", 2, 6, {
          attributes: [{ name: "tide", value: "spring" }],
          spread: { shape: "ring", gap: 3 },
        }),
      ],
      ["far-sound", level("Far Sound", 2, 6, { pool: "weir", spread: { shape: "grid", gap: 2 } })],
      ["gull-flats", level("Gull Flats", 2, 3)],
      ["old-slip", level("Old Slip", 1, 1)],
    ]),
    pools: new Map([
      ["sluice", pool(7500)],
      // Its instances may also run on machines that join by themselves.
      ["weir", { ...pool(7510), machines: ["here", "spot"] }],
    ]),
    machines: new Map([["here", testMachine()]]),
    machineGroups: new Map([["spot", testGroup()]]),
    queues: new Map([
      ["pairs", pairs],
      // Its players are asked first, and its rooms are filled up.
      [
        "confirming-pairs",
        {
          ...pairs,
          title: "Asked pairs",
          whenLeft: "backfill",
          confirm: { withinMs: 10_000, pausesMs: [2_000, 20_000], forgetMs: 60_000 },
        },
      ],
      ["backfilled-pairs", { ...pairs, title: "Filled pairs", whenLeft: "backfill" }],
      [
        "ended-pairs",
        {
          ...pairs,
          title: "Ended pairs",
          whenLeft: "end",
          rating: testRating,
          leavers: { pausesMs: [5_000, 20_000], forgetMs: 60_000 },
        },
      ],
    ]),
    matcher: "here",
    travel: { prepareMs: 40_000, boardMs: 30_000, attempts: 2 },
    ...change,
  };
}

/** What starts the instances of tests. */
export const testSpec = (change: Partial<BuildSpec> = {}): BuildSpec => ({
  version: "1",
  command: "breakwater",
  args: [],
  environment: {},
  ready: "kit",
  berths: 64,
  rooms: 1,
  matches: "many",
  ports: [],
  transport: "tcp",
  needs: {},
  limits: {},
  ...change,
});

/** A computer of tests that runs instances as processes. */
export const testMachine = (change: Partial<MachineRules> = {}): MachineRules => ({
  driver: "process",
  region: null,
  host: "127.0.0.1",
  max: 100,
  cpus: null,
  memoryMb: null,
  preemptible: false,
  pricePerSecond: null,
  ...change,
});

/** A group of machines that are forgotten soon. */
const testGroup = (): MachineGroupRules => {
  const { driver: _, host: __, ...alike } = testMachine({ max: 2, preemptible: true });
  return { ...alike, limit: 2, forgetMs: 5_000, fleet: null };
};

/** A plan that keeps nothing ready, but for what is said. */
export const testPlan = (change: Partial<PlanRules> = {}): PlanRules => ({
  min: 0,
  spare: 0,
  spareShare: 0,
  spareIn: {},
  schedule: [],
  costPerHour: null,
  cooldownMs: 0,
  reclaimMs: 0,
  giveUpAfter: 6,
  ...change,
});
