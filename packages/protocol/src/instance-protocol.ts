import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { PlayerAttributes } from "./attributes.ts";
import { ConfigName, InstanceId, PartyId, PlayerId, RoomId, RunId, SideName } from "./ids.ts";
import { MatchId } from "./queues.ts";
import { outcomeFields } from "./results.ts";
import { Attributes, Settings } from "./settings.ts";

import { SpreadView } from "./spread.ts";
import { Reason } from "./text.ts";

export const MatchPlayer = z
  .object({
    id: PlayerId,
    name: z.string(),
    place: z.int(),
    side: SideName.optional().meta({ description: "Where the room kind has sides." }),
    role: z.string().optional().meta({ description: "What it was matched for, where its queue has a line-up." }),
    attributes: PlayerAttributes.optional().meta({ description: "What it brings into rooms." }),
    party: PartyId.optional().meta({ description: "The party it is in: who has the same came together." }),
    account: AccountId.optional().meta({
      description: "Of the game's own back end, as its token says; a guest has none.",
    }),
  })
  .meta({ id: "MatchPlayer", description: "Who is promised a berth, as it was when that was said." });
export type MatchPlayer = z.infer<typeof MatchPlayer>;

const QueueMatch = z
  .object({
    id: MatchId,
    queue: ConfigName,
    region: z.string().nullable().meta({ description: "Where it is played; null when the queue looks at no latency." }),
    parties: z.array(z.array(PlayerId)).meta({ description: "Who searched together: parties of two and more." }),
  })
  .meta({ id: "QueueMatch", description: "The match of a queue that the room was opened for." });

/** A match to run: who is promised a berth, on which level. */
export const MatchAssignment = z
  .object({
    room: RoomId,
    run: RunId,
    level: ConfigName,
    attributes: Attributes.optional().meta({ description: "The level's." }),
    players: z.array(MatchPlayer),
    kind: ConfigName.optional().meta({ description: "Room kind." }),
    host: PlayerId.optional().meta({ description: "The member with the powers; absent while nobody is in the room." }),
    settings: Settings.optional().meta({ description: "Of the room, as they are when the run starts." }),
    match: QueueMatch.optional().meta({ description: "In the first run of a room that a queue opened." }),
    spread: SpreadView.optional(),
    series: z
      .object({ number: z.int().meta({ description: "Which run it is, from 1." }), bestOf: z.int() })
      .optional()
      .meta({ description: "Where runs are counted as a series." }),
    spectators: z.object({ max: z.int(), delayMs: z.int() }).optional().meta({
      description: "Where players may look on: how many, and how far behind the run they are to be shown it.",
    }),
  })
  .meta({
    id: "MatchAssignment",
    description: "A match to run: the level and exactly the players who are promised a berth.",
  });
export type MatchAssignment = z.infer<typeof MatchAssignment>;

/** What the service tells an instance to do. Numbers go up by one; an instruction is repeated until it is acknowledged. */
export const Instruction = z
  .discriminatedUnion("instruction", [
    z.object({ number: z.int(), instruction: z.literal("match-assigned"), match: MatchAssignment }),
    z.object({ number: z.int(), instruction: z.literal("expect-player"), run: RunId, player: MatchPlayer }),
    z.object({
      number: z.int(),
      instruction: z.literal("expect-spectator"),
      run: RunId,
      player: MatchPlayer,
      delayMs: z.int().meta({ description: "How far behind the run it is to be shown it." }),
    }),
    z.object({ number: z.int(), instruction: z.literal("release-player"), run: RunId, player: PlayerId }),
    z.object({
      number: z.int(),
      instruction: z.literal("match-started"),
      run: RunId,
      without: z.array(PlayerId).meta({ description: "Who is promised a berth and may follow." }),
    }),
    z.object({
      number: z.int(),
      instruction: z.literal("match-changed"),
      run: RunId,
      host: PlayerId.optional().meta({ description: "Who has the powers now; absent when that is as it was." }),
      settings: Settings.optional().meta({
        description: "All settings as they are now; absent when they are as they were.",
      }),
      players: z
        .array(MatchPlayer)
        .optional()
        .meta({ description: "Players of whom something is other, such as the side." }),
    }),
    z.object({ number: z.int(), instruction: z.literal("end-match"), run: RunId, reason: z.string() }),
    z.object({ number: z.int(), instruction: z.literal("stop"), reason: z.string() }),
  ])
  .meta({ id: "Instruction" });
export type Instruction = z.infer<typeof Instruction>;

export const Announce = z
  .strictObject({
    port: z.int().min(1).max(65_535).meta({ description: "Port it listens on: the one it was given." }),
    pid: z.int().positive().optional(),
  })
  .meta({ id: "Announce" });
export const AnnounceReply = z
  .object({
    instance: InstanceId,
    pool: ConfigName,
    pollWaitMs: z.int().meta({ description: "How long a poll may be held open before it is answered empty." }),
  })
  .meta({ id: "AnnounceReply" });
export type AnnounceReply = z.infer<typeof AnnounceReply>;

export const Poll = z
  .strictObject({
    acknowledged: z
      .int()
      .nonnegative()
      .meta({ description: "Number of the last instruction carried out; 0 before the first." }),
    players: z.array(PlayerId).max(10_000).optional().meta({
      description:
        "Who has boarded and is there now; held against the berths. Nothing is concluded when it is left out.",
    }),
    waitMs: z.int().min(0).max(60_000).optional().meta({ description: "Longest time to hold this poll open." }),
  })
  .meta({ id: "Poll" });
export const PollReply = z.object({ instructions: z.array(Instruction) }).meta({ id: "PollReply" });
export type PollReply = z.infer<typeof PollReply>;

export const Board = z
  .strictObject({
    pass: z.string().min(1).max(4096),
    attempt: z.string().min(1).max(64).optional().meta({
      description:
        "Chosen by the instance for each connecting client. A repeat with the same one, after a lost answer, is answered again.",
    }),
  })
  .meta({ id: "Board" });
export const BoardReply = z
  .object({
    player: MatchPlayer,
    room: RoomId,
    run: RunId,
    level: ConfigName,
    spectator: z.literal(true).optional().meta({ description: "It looks on; its place is one of the spectators'." }),
  })
  .meta({ id: "BoardReply" });
export type BoardReply = z.infer<typeof BoardReply>;

export const Unboard = z
  .strictObject({ player: PlayerId, reason: z.enum(["left", "lost", "kicked"]) })
  .meta({ id: "Unboard" });

export const KickFromMatch = z
  .strictObject({
    player: PlayerId,
    reason: Reason.optional().meta({ description: "Told to the player." }),
    ban: z.boolean().default(true).meta({ description: "Whether it may not come back into the room." }),
  })
  .meta({ id: "KickFromMatch" });

export const Report = z
  .strictObject({
    run: RunId,
    ...outcomeFields,
    note: z.string().max(200).optional(),
  })
  .meta({ id: "Report" });

export const Goodbye = z.strictObject({ reason: z.string().max(200) }).meta({ id: "Goodbye" });

export const Acknowledged = z.object({}).meta({ id: "Acknowledged" });
export type Acknowledged = z.infer<typeof Acknowledged>;

/** Names of the environment variables an instance is started with. */
export const instanceEnvironment = {
  serviceUrl: "YELLOW_HARBOR_URL",
  key: "YELLOW_HARBOR_KEY",
  instance: "YELLOW_HARBOR_INSTANCE",
  host: "YELLOW_HARBOR_HOST",
  port: "YELLOW_HARBOR_PORT",
} as const;
