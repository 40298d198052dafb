import { z } from "zod";
import { ConfigName, SideName } from "../ids.ts";
import { CAPACITY_MIN, SPECTATORS_MAX } from "../limits.ts";
import { DestinationKind, Stragglers } from "../travel.ts";
import { Capacity, type DeepReadonly, isUnique, Ms, orNull } from "./parts.ts";
import { SettingSchemas, SettingVariants } from "./room-settings.ts";

const Board = z
  .strictObject({
    entries: z.int().min(0).max(1_000).default(64).meta({ description: "Maximum of entries on a room's board." }),
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
  .prefault({});

const PrivateEntries = z
  .strictObject({
    perMember: z.int().min(0).max(100).default(16).meta({
      description: "Maximum of private entries that a member has in a room; 0 for none.",
    }),
    bytes: z.int().min(16).max(16_384).default(2_048).meta({
      description: "Largest value of a private entry, in bytes of JSON.",
    }),
    totalBytes: z.int().min(16).max(1_048_576).default(65_536).meta({
      description: "All private entries of a room together, in bytes of JSON.",
    }),
  })
  .prefault({});

const Relay = z
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
  .prefault({});

const Sides = z
  .strictObject({
    names: z.array(SideName).min(2).max(8).refine(isUnique, "expected each side once"),
    max: Capacity.meta({ description: "Maximum of members on each side." }),
    apart: orNull(
      z
        .int()
        .min(0)
        .max(64)
        .meta({ description: "Maximum difference between the sides at the start; unlimited when left out." }),
    ),
  })
  .meta({ description: "Sides of the rooms; none when left out." });

/** The policy of a kind of rooms: what a file says, and what core decides by. A room keeps the policy it was opened with. */
export const RoomKind = z.strictObject({
  capacity: z
    .strictObject({ min: Capacity.default(CAPACITY_MIN), max: Capacity, default: Capacity.optional() })
    .refine((c) => c.min <= c.max, { message: "expected min to be no more than max", path: ["min"] })
    .refine((c) => c.default === undefined || (c.min <= c.default && c.default <= c.max), {
      message: "expected default to lie between min and max",
      path: ["default"],
    })
    .transform(({ min, max, default: byDefault = max }) => ({ min, max, default: byDefault })),
  minPlayers: Capacity.default(2).meta({ description: "Minimum of members for a start." }),
  sides: orNull(Sides),
  levels: z.array(ConfigName).min(1).max(256),
  starters: z.enum(["host", "anyone"]).default("host").meta({ description: "Who may start." }),
  readiness: z.enum(["all", "here", "none"]).default("all").meta({
    description:
      "Who must be ready for a start: all members; those who are here; nobody. With here and none, members who are away stay behind.",
  }),
  clearsReady: z
    .array(z.enum(["level", "settings", "sides", "members"]))
    .refine(isUnique, "expected each change once")
    .default(["level", "settings"])
    .meta({ description: "Changes that clear everybody's readiness." }),
  countdownMs: Ms(0, "From start until the travel begins, 0 for at once.", { min: 0, max: 600_000 }),
  autoStart: z
    .boolean()
    .default(false)
    .meta({ description: "Whether a room starts by itself once nothing is missing." }),
  graceMs: Ms(30_000, "How long the place of a lost member is kept.", { min: 0 }),
  hostGraceMs: Ms(10_000, "How long a lost host stays host when other members are here.", { min: 0 }),
  idle: orNull(
    z
      .strictObject({
        askAfterMs: Ms(
          120_000,
          "After so long without doing anything a member who is not ready is asked whether it is here.",
          {
            min: 1_000,
          },
        ),
        answerMs: Ms(30_000, "How long it has for any answer before it is sent back to the lobby.", { min: 1_000 }),
      })
      .meta({
        description:
          "Sends members back to the lobby who neither get ready nor do anything while the room gathers; nobody when absent. {} for the defaults.",
      }),
  ),
  hostGoes: z
    .enum(["hand-over", "close"])
    .default("hand-over")
    .meta({ description: "What happens when the host leaves: another member becomes host, or the room closes." }),
  nextHost: z.enum(["longest-present", "lowest-latency", "best-connected"]).default("longest-present").meta({
    description:
      "Who becomes host next: who came first; who has the lowest latency to the service; or best-connected, who is nearest to the one of the others that is farthest from it, as members tell with room.tell-latencies.",
  }),
  invites: z
    .enum(["members", "host", "nobody"])
    .default("members")
    .meta({ description: "Who in the room may invite others: a place is kept for whoever is invited." }),
  inviteMs: Ms(60_000, "How long a place is kept for somebody who is invited.", { min: 1_000, max: 3_600_000 }),
  signals: orNull(
    z
      .strictObject({
        perPair: z.int().min(1).max(10_000).default(64).meta({
          description: "How many signals one member may send another at once; as many more in a minute.",
        }),
        bytes: z
          .int()
          .min(16)
          .max(8_192)
          .default(2_048)
          .meta({ description: "Largest body of one, in bytes of JSON." }),
      })
      .meta({
        description:
          "Lets members pass each other what they need to connect directly (room.signal); off when absent. {} for the defaults.",
      }),
  ),
  hostEcho: z.boolean().default(false).meta({
    description:
      "Whether hosts may tell where their own worlds answer echoes: whoever sees the directory learns their addresses then.",
  }),
  friendsJoin: z.boolean().default(false).meta({
    description:
      "Whether those who know a member may follow it into a room that is joined by its code alone. Into a listed room they may anyway.",
  }),
  spectators: orNull(
    z
      .strictObject({
        max: z.int().min(1).max(SPECTATORS_MAX).default(16).meta({ description: "Most spectators of a room." }),
        delayMs: Ms(0, "How far behind the run spectators are to be shown it; told to the instance and to them.", {
          min: 0,
          max: 600_000,
        }),
      })
      .meta({
        description:
          "Lets players look on without a place of their own in the game; nobody when absent. {} for the defaults.",
      }),
  ),
  lateJoining: z.enum(["closed", "open", "backfill"]).default("closed").meta({
    description: "Who may join after the start: nobody, anybody, or only players that a queue sends.",
  }),
  emptyMs: Ms(0, "How long an empty room stays open; 0 to close it at once.", { min: 0 }),
  resultBy: z
    .enum(["instance", "host", "operator"])
    .default("instance")
    .meta({ description: "Who decides the result of a run." }),
  resultPayload: z
    .enum(["members", "back-end"])
    .default("back-end")
    .meta({ description: "Who is shown the payload of a result: the members as well, or the game's back end alone." }),
  series: orNull(
    z
      .strictObject({
        bestOf: z.int().min(1).max(99).meta({
          description: "Most runs of a series; it is over as soon as one has won more than half of them.",
        }),
        swapSides: z
          .boolean()
          .default(false)
          .meta({ description: "Whether everybody goes to the next side after each run." }),
      })
      .meta({
        description:
          "Counts runs as a series, with wins of sides, or of players where there are none; no series when absent.",
      }),
  ),
  playMs: Ms(4 * 3_600_000, "How long a run may go on without a result before it is void; 0 for ever.", {
    min: 0,
    max: 7 * 86_400_000,
  }),
  resultsMs: Ms(0, "How long the result is shown before the room gathers again, 0 to gather at once.", { min: 0 }),
  destinations: z
    .array(DestinationKind)
    .min(1)
    .refine(isUnique, "expected each destination once")
    .default(["dedicated"])
    .meta({
      description:
        "Where rooms play, in the order in which it is tried: dedicated, on an instance; player-hosted, in the world of the host; relayed, through the service.",
    }),
  stragglers: Stragglers.default("wait").meta({
    description:
      "What happens to members who have not arrived in time. wait: the travel fails; go-without: the others go, and members who are away or in the background are not waited for; drop: they leave the room.",
  }),
  onLoss: z.enum(["end", "move"]).default("end").meta({
    description:
      "What happens when the server of a run is lost: the run ends, or starts again on another server. The result is void.",
  }),
  levelBy: z.enum(["host", "rotation", "vote"]).default("host").meta({
    description: "Who picks the level: the host; rotation, the next level after each result; or vote, the members.",
  }),
  settings: orNull(SettingSchemas).default(null).meta({
    description:
      "Settings that rooms have, each with its schema: others are refused. null for free settings: whatever the game likes.",
  }),
  variants: SettingVariants.default({}).meta({ description: "Named values of settings, taken all at once." }),
  board: Board,
  privateEntries: PrivateEntries,
  relay: Relay,
});
export type RoomKindRules = DeepReadonly<z.output<typeof RoomKind>>;

/** The part of it that a room is opened with and keeps: later rules are for later rooms. */
export type RoomPolicy = Omit<
  RoomKindRules,
  "capacity" | "levels" | "settings" | "variants" | "board" | "privateEntries" | "relay"
>;

/** The policy alone out of the rules of a room kind. */
export function policyOf(rules: RoomKindRules): RoomPolicy {
  const {
    capacity: _,
    levels: __,
    settings: ___,
    variants: ____,
    board: _____,
    privateEntries: ______,
    relay: _______,
    ...policy
  } = rules;
  return policy;
}
