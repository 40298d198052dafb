import { z } from "zod";
import { ConfigName, InstanceId, PlayerId, RoomId, RunId } from "./ids.ts";
import { ScoreRows } from "./requests/playing.ts";
import { Attributes } from "./settings.ts";
import { SpreadView } from "./spread.ts";

const MatchPlayer = z.object({ id: PlayerId, name: z.string(), place: z.int() }).meta({ id: "MatchPlayer" });

/** A match to run: who is promised a berth, on which level. */
export const MatchOrder = z
  .object({
    room: RoomId,
    run: RunId,
    level: ConfigName,
    attributes: Attributes.optional().meta({ description: "The level's." }),
    players: z.array(MatchPlayer),
    spread: SpreadView.optional(),
  })
  .meta({
    id: "MatchOrder",
    description: "A match to run: the level and exactly the players who are promised a berth.",
  });
export type MatchOrder = z.infer<typeof MatchOrder>;

/** What the service tells an instance to do. Numbers go up by one; an order is repeated until it is acknowledged. */
export const Order = z
  .discriminatedUnion("order", [
    z.object({ number: z.int(), order: z.literal("take-match"), match: MatchOrder }),
    z.object({ number: z.int(), order: z.literal("expect-player"), run: RunId, player: MatchPlayer }),
    z.object({ number: z.int(), order: z.literal("release-player"), run: RunId, player: PlayerId }),
    z.object({
      number: z.int(),
      order: z.literal("begin"),
      run: RunId,
      without: z.array(PlayerId).meta({ description: "Who is promised a berth and may follow." }),
    }),
    z.object({ number: z.int(), order: z.literal("end-match"), run: RunId, reason: z.string() }),
    z.object({ number: z.int(), order: z.literal("stop"), reason: z.string() }),
  ])
  .meta({ id: "Order" });
export type Order = z.infer<typeof Order>;

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
    pulseWaitMs: z.int().meta({ description: "How long a pulse may be held open before it is answered empty." }),
  })
  .meta({ id: "AnnounceReply" });
export type AnnounceReply = z.infer<typeof AnnounceReply>;

export const Pulse = z
  .strictObject({
    taken: z.int().nonnegative().meta({ description: "Number of the last order carried out; 0 before the first." }),
    players: z.array(PlayerId).max(10_000).optional().meta({
      description:
        "Who has boarded and is there now; held against the berths. Nothing is concluded when it is left out.",
    }),
    waitMs: z.int().min(0).max(60_000).optional().meta({ description: "Longest time to hold this pulse open." }),
  })
  .meta({ id: "Pulse" });
export const PulseReply = z.object({ orders: z.array(Order) }).meta({ id: "PulseReply" });
export type PulseReply = z.infer<typeof PulseReply>;

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
  .object({ player: MatchPlayer, room: RoomId, run: RunId, level: ConfigName })
  .meta({ id: "BoardReply" });
export type BoardReply = z.infer<typeof BoardReply>;

export const Unboard = z
  .strictObject({ player: PlayerId, reason: z.enum(["left", "lost", "put-out"]) })
  .meta({ id: "Unboard" });

export const Report = z
  .strictObject({
    run: RunId,
    standings: ScoreRows,
    note: z.string().max(200).optional(),
  })
  .meta({ id: "Report" });

export const Farewell = z.strictObject({ reason: z.string().max(200) }).meta({ id: "Farewell" });

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
