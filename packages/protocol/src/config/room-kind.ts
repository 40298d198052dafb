import { z } from "zod";
import { ConfigName, SideName } from "../ids.ts";
import { CAPACITY_MIN } from "../limits.ts";
import { DestinationKind, Stragglers } from "../travel.ts";
import { Capacity, type DeepReadonly, isUnique, Ms, orNull } from "./parts.ts";

const Board = z
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
    most: Capacity.meta({ description: "Most members of each side." }),
    apart: orNull(
      z
        .int()
        .min(0)
        .max(64)
        .meta({ description: "By how many members the sides may differ at the start; any number when absent." }),
    ),
  })
  .meta({ description: "Sides of the rooms; none when absent." });

/** How rooms of a kind go about things: what a file says, and what core decides by. A room keeps the ways it was opened with. */
export const RoomKind = z.strictObject({
  capacity: z
    .strictObject({ least: Capacity.default(CAPACITY_MIN), most: Capacity, preset: Capacity.optional() })
    .refine((c) => c.least <= c.most, { message: "expected least to be no more than most", path: ["least"] })
    .refine((c) => c.preset === undefined || (c.least <= c.preset && c.preset <= c.most), {
      message: "expected preset to lie between least and most",
      path: ["preset"],
    })
    .transform(({ least, most, preset = most }) => ({ least, most, preset })),
  leastPlayers: Capacity.default(2).meta({ description: "Fewest members with which a room may start." }),
  sides: orNull(Sides),
  levels: z.array(ConfigName).min(1).max(256),
  starters: z.enum(["host", "anyone"]).default("host").meta({ description: "Who may start." }),
  readiness: z.enum(["all", "here", "none"]).default("all").meta({
    description:
      "Whose word is needed to start: all members'; that of those who are here; nobody's. With here and none, who is away stays behind.",
  }),
  clearsReady: z
    .array(z.enum(["level", "settings", "sides", "members"]))
    .refine(isUnique, "expected each change once")
    .default(["level", "settings"])
    .meta({ description: "Changes after which everybody has to say again that it is ready." }),
  countdownMs: Ms(0, "From start until the travel begins, 0 for at once.", { min: 0, max: 600_000 }),
  autoStart: z
    .boolean()
    .default(false)
    .meta({ description: "Whether a room starts by itself once nothing is missing." }),
  graceMs: Ms(30_000, "How long the place of a lost member is kept.", { min: 0 }),
  hostGraceMs: Ms(10_000, "How long a lost host keeps the powers, when others are here to take them.", { min: 0 }),
  hostGoes: z
    .enum(["hand-over", "close"])
    .default("hand-over")
    .meta({ description: "What happens when the host leaves: another member has the powers, or the room closes." }),
  nextHost: z
    .enum(["longest-present", "lowest-latency"])
    .default("longest-present")
    .meta({ description: "Who is host next." }),
  lateJoining: z.enum(["closed", "open", "backfill"]).default("closed").meta({
    description: "Whether one may join after the start: nobody, anybody, or only those whom a queue sends.",
  }),
  emptyMs: Ms(0, "How long a room stays open with nobody in it, 0 to close at once.", { min: 0 }),
  resultBy: z
    .enum(["instance", "host", "operator"])
    .default("instance")
    .meta({ description: "Who decides the result of a run." }),
  playMs: Ms(4 * 3_600_000, "How long a run may go on without a result before it is void, 0 for ever.", {
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
        "Where rooms play, in the order in which it is tried: at an instance, in the world of the host, or relayed by the service.",
    }),
  stragglers: Stragglers.default("wait").meta({
    description:
      "Who has not arrived in time: everybody is waited for, and the travel given up at its end; the others go without, and whoever is away or in the background is not waited for; or it is put out of the room.",
  }),
  onLoss: z.enum(["end", "move"]).default("end").meta({
    description:
      "When the place is lost that a run is played at: it ends, or begins anew at another. Its result is void.",
  }),
  levelBy: z.enum(["host", "rotation", "vote"]).default("host").meta({
    description:
      "Who picks the level: the host; the order of levels, one after each result; or the members, by most votes.",
  }),
  board: Board,
  relay: Relay,
});
export type RoomKindRules = DeepReadonly<z.output<typeof RoomKind>>;

/** The part of it that a room is opened with and keeps: later rules are for later rooms. */
export type RoomWays = Omit<RoomKindRules, "capacity" | "levels" | "board" | "relay">;

/** Only the ways out of a room kind's rules. */
export function waysOf({ capacity: _, levels: __, board: ___, relay: ____, ...ways }: RoomKindRules): RoomWays {
  return ways;
}
