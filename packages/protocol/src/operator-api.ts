import { z } from "zod";
import { AccountId } from "./accounts.ts";
import { AlertView } from "./alerts.ts";
import { AtMs } from "./basics.ts";
import { ConfigName, PartyId, PlayerId, RoomId } from "./ids.ts";
import { Missing, ProblemCode } from "./problems.ts";
import { ChatMessage, Reason } from "./text.ts";
import { TravelView } from "./travel.ts";
import { Patch } from "./update.ts";
import { HarborView, InstanceState, InstanceView, LobbySummary, Phase, Presence, RoomView } from "./views.ts";

export const WorkerView = z
  .object({
    number: z.int().meta({ description: "Its place, from 1; one that takes the place of another has its number." }),
    pid: z.int(),
    memoryBytes: z.number().optional().meta({ description: "Resident memory; absent until it has said so." }),
    cpuSeconds: z.number().optional().meta({ description: "Processor time since its start." }),
    loopDelayMs: z.number().optional().meta({ description: "How late its event loop was lately (p99)." }),
    isReady: z.boolean().meta({ description: "Whether it can be handed sockets, or still starts." }),
    connections: z.int().meta({ description: "Connections of players that it has." }),
    unreadBytes: z.int().meta({ description: "What it was told and has not read yet." }),
    upMs: z.int(),
  })
  .meta({ id: "Worker", description: "A process that has sockets of players' clients." });
export type WorkerView = z.infer<typeof WorkerView>;

export const StatusView = z
  .object({
    harbor: ConfigName,
    version: z.string(),
    wire: z.int(),
    accepts: z.array(z.string()).meta({ description: "Builds of game clients that are accepted." }),
    upMs: z.int(),
    players: z.object({ here: z.int(), away: z.int(), limit: z.int() }),
    lobbies: z.array(LobbySummary),
    rooms: z.record(Phase, z.int()),
    instances: z.record(InstanceState, z.int()),
    wrongKeys: z
      .object({ count: z.int(), lastFrom: z.string().optional(), lastAtMs: AtMs.optional() })
      .meta({ description: "Requests with a wrong key since the start." }),
    keysInTwoPlaces: z
      .object({
        count: z.int(),
        last: z
          .object({
            holder: z.string().meta({ description: "The instance, or the machine." }),
            from: z.tuple([z.string(), z.string()]).meta({ description: "The two addresses." }),
            atMs: AtMs,
          })
          .optional(),
      })
      .meta({
        description:
          "How often the key of an instance, or the token of a machine, was used from two addresses in turns since the start, as a stolen one is.",
      }),
    alerts: z.array(AlertView).meta({ description: "What somebody should look at, the most urgent first." }),
    watchers: z.int().meta({ description: "Streams of everything that are open." }),
    connections: z.int().meta({ description: "Connections of players that are open." }),
    waitingLine: z.object({ players: z.int(), oldestSinceMs: AtMs }).optional().meta({
      description:
        "Players who wait for a place in the full harbor, and since when the first one does; absent when none does.",
    }),
    relay: z
      .object({ connections: z.int(), bytesToInstances: z.int(), bytesToPlayers: z.int() })
      .optional()
      .meta({ description: "What passes to instances through the service; absent where that is off." }),
    process: z
      .object({
        memoryBytes: z.int().meta({ description: "Resident memory." }),
        heapBytes: z.int().meta({ description: "Heap in use." }),
        loopDelayMs: z.number().meta({
          description: "99th percentile of the event loop's delay since the status was asked for last.",
        }),
        maxLoopDelayMs: z.number(),
      })
      .meta({ description: "The service's own process." }),
    workers: z
      .object({
        workers: z.array(WorkerView),
        replaced: z.int().meta({ description: "Workers that had ended and were replaced, since the start." }),
      })
      .optional()
      .meta({ description: "Absent where the service is one process." }),
    journal: z.object({
      seq: z.int().meta({ description: "Number of the last durable event." }),
      commits: z.int().meta({ description: "Batches committed since the start." }),
      waiting: z.int().meta({ description: "Events decided but not yet durable." }),
      fault: z.string().optional().meta({
        description: "What is wrong with the events of before the newest snapshot: looking back does not go past it.",
      }),
    }),
  })
  .meta({ id: "Status", description: "The service in numbers." });
export type StatusView = z.infer<typeof StatusView>;

export const PageQuery = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(100),
  after: z.string().max(64).optional().meta({ description: "Cursor: the `next` of the page before." }),
});

export const PlayersQuery = PageQuery.extend({
  name: z.string().max(200).optional().meta({ description: "Only who is called so, in capitals or not." }),
  search: z.string().max(200).optional().meta({ description: "Only whose name, id or account has this in it." }),
  lobby: ConfigName.optional().meta({ description: "Only who is of this lobby, in a room or not." }),
  presence: Presence.optional(),
});
export const MoveToLobby = z.strictObject({ lobby: ConfigName }).meta({ id: "MoveToLobby" });
export const RoomQuery = PageQuery.extend({
  lobby: ConfigName.optional(),
  phase: Phase.optional(),
  region: ConfigName.optional(),
});
export const RoomPage = z.object({ rooms: z.array(RoomView), next: z.string().optional() }).meta({ id: "RoomPage" });
export type RoomPage = z.infer<typeof RoomPage>;

export const InstanceQuery = PageQuery.extend({
  state: InstanceState.optional(),
  ended: z.stringbool().default(false).meta({ description: "Whether ended and failed instances are listed too." }),
});
export const InstancePage = z
  .object({ instances: z.array(InstanceView), next: z.string().optional() })
  .meta({ id: "InstancePage" });
export type InstancePage = z.infer<typeof InstancePage>;

export const OutputQuery = z.object({
  stream: z.enum(["out", "err", "both"]).default("both"),
  follow: z
    .stringbool()
    .default(false)
    .meta({ description: "Keep sending what is printed until the instance has ended." }),
  tailBytes: z.coerce.number().int().min(0).max(67_108_864).default(65_536),
  find: z
    .string()
    .min(1)
    .max(200)
    .optional()
    .meta({ description: "Only lines that hold this text, whatever its case." }),
});

export const DrainInstance = z.strictObject({ reason: Reason.optional() }).meta({ id: "DrainInstance" });

export const Kick = z
  .strictObject({ player: PlayerId, reason: Reason.optional(), ban: z.boolean().default(false) })
  .meta({ id: "Kick" });
export const PlayerKick = z.strictObject({ reason: Reason.optional() }).meta({ id: "PlayerKick" });
export const Ban = z.strictObject({ player: PlayerId, reason: Reason.optional() }).meta({ id: "Ban" });
export const Unban = z.strictObject({ player: PlayerId }).meta({ id: "Unban" });
export const Say = z.strictObject({ text: ChatMessage }).meta({ id: "Say" });
export const NotifyMany = Say.extend({ lobby: ConfigName.optional() }).meta({ id: "NotifyMany" });
export const Said = z
  .object({ delivered: z.int().meta({ description: "Players who are connected and were sent it." }) })
  .meta({ id: "Said" });
export type Said = z.infer<typeof Said>;
export const HandOver = z.strictObject({ to: PlayerId }).meta({ id: "HandOver" });
export const Backup = z
  .strictObject({
    passphrase: z.string().min(12, "expected 12 characters or more").max(1_000).optional().meta({
      description: "Seals the copy, which then holds the harbor's secret. Without it the copy holds none.",
    }),
  })
  .meta({ id: "Backup" });
export const CloseRoom = z.strictObject({ reason: Reason.optional() }).meta({ id: "CloseRoom" });
export const Revised = z.object({ revision: z.int() }).meta({ id: "Revised" });
export type Revised = z.infer<typeof Revised>;

export const PlayerView = z
  .object({
    id: PlayerId,
    name: z.string(),
    account: AccountId.optional().meta({ description: "Absent for a guest without a device key." }),
    build: z.string(),
    lobby: ConfigName,
    presence: Presence,
    room: RoomId.optional(),
    party: PartyId.optional(),
    latencyMs: z.number().optional(),
    jitterMs: z.number().optional(),
  })
  .meta({ id: "Player", description: "A player as operators see it." });
export type PlayerView = z.infer<typeof PlayerView>;
export const PlayerPage = z
  .object({ players: z.array(PlayerView), next: z.string().optional() })
  .meta({ id: "PlayerPage" });
export type PlayerPage = z.infer<typeof PlayerPage>;

export const RoomExplanation = z
  .object({
    room: RoomId,
    phase: Phase,
    canStart: z.boolean(),
    missing: z.array(Missing),
    text: z.array(z.string()).meta({ description: "The same in plain sentences, the most important first." }),
  })
  .meta({ id: "RoomExplanation", description: "Why a room can or cannot start, and what it waits for." });
export type RoomExplanation = z.infer<typeof RoomExplanation>;

export const AbortTravel = z.strictObject({ reason: Reason.optional() }).meta({ id: "AbortTravel" });

export const TravelExplanation = z
  .object({
    room: RoomId,
    travel: TravelView.optional().meta({ description: "Absent when the room is not travelling." }),
    waitingFor: z.array(
      z.object({
        player: PlayerId,
        name: z.string(),
        percent: z.int(),
        sinceMs: z.int().meta({ description: "How long it has been waited for." }),
        why: z.string(),
      }),
    ),
    next: z
      .object({ atMs: AtMs, text: z.string() })
      .optional()
      .meta({ description: "What happens at the deadline, if nothing else does before." }),
    text: z.array(z.string()).meta({ description: "The same in plain sentences, the most important first." }),
  })
  .meta({ id: "TravelExplanation", description: "Whom a travel waits for, since when, and what happens next." });
export type TravelExplanation = z.infer<typeof TravelExplanation>;

export const JoinQuery = z.object({ player: PlayerId });
export const JoinExplanation = z
  .object({
    player: PlayerId,
    room: RoomId,
    canJoin: z.boolean(),
    code: ProblemCode.optional().meta({ description: "Why a join would be refused now." }),
    against: z.array(z.object({ code: ProblemCode, text: z.string(), change: z.string() })).meta({
      description: "Every obstacle, in the order in which they are checked, and what would remove it.",
    }),
    text: z.array(z.string()),
  })
  .meta({ id: "JoinExplanation", description: "Why a player may or may not join a room, and what would change it." });
export type JoinExplanation = z.infer<typeof JoinExplanation>;

export const JournalQuery = z.object({
  after: z.coerce.number().int().min(0).default(0).meta({ description: "Events with higher numbers than this." }),
  limit: z.coerce.number().int().min(1).max(1_000).default(100),
  kind: z.string().max(64).optional().meta({ description: "Kind, or the beginning of one: room, room.opened." }),
  about: z.string().max(64).optional().meta({ description: "Id of a player, room or instance that the event names." }),
});
export const JournalPage = z
  .object({
    events: z.array(
      z.object({ seq: z.int(), atMs: z.int(), kind: z.string(), event: z.record(z.string(), z.unknown()) }),
    ),
    next: z.int().optional().meta({ description: "Ask on `after` this, when the journal goes on." }),
  })
  .meta({ id: "JournalPage", description: "Events of the journal, in order." });
export type JournalPage = z.infer<typeof JournalPage>;

export const PastQuery = z
  .object({
    seq: z.coerce.number().int().min(1).optional().meta({ description: "Right after this event of the journal." }),
    atMs: z.coerce.number().int().min(0).optional().meta({
      description: "At this time, in milliseconds since 1970-01-01T00:00:00Z.",
    }),
    story: z.coerce.number().int().min(1).max(200).default(20).meta({
      description: "How many of the room's events up to the moment are told.",
    }),
  })
  .refine(({ seq, atMs }) => seq === undefined || atMs === undefined, {
    message: "expected seq or atMs, not both",
    path: ["atMs"],
  });

export const RoomHistory = z
  .object({
    room: RoomView.meta({
      description: "After the last event of the story; as it was last with somebody in it when that has closed it.",
    }),
    closed: z.boolean(),
    story: z
      .array(z.object({ seq: z.int(), atMs: z.int(), kind: z.string(), text: z.string().optional() }))
      .min(1)
      .meta({ description: "The room's events, oldest first, the moment's own last." }),
    next: z.int().optional().meta({ description: "Number of the room's next event after the moment." }),
  })
  .meta({ id: "RoomHistory", description: "A room as it was at a moment of its past, and how it came to that." });
export type RoomHistory = z.infer<typeof RoomHistory>;

/** One message of the watch stream: the whole state first, then what happened with the patch for it. */
export const WatchMessage = z
  .discriminatedUnion("message", [
    z.object({ message: z.literal("state"), atMs: z.int(), state: HarborView }),
    z.object({
      message: z.literal("happened"),
      atMs: z.int(),
      kind: z.string().meta({ description: "Kind of the event." }),
      text: z.string().optional().meta({ description: "What happened, in a sentence." }),
      patch: Patch,
    }),
  ])
  .meta({ id: "WatchMessage" });
export type WatchMessage = z.infer<typeof WatchMessage>;

/** How long a service may be expected to be away. */
const AWAY_MAX_S = 3_600;

export const Drain = z
  .strictObject({
    backInS: z.number().min(0).max(AWAY_MAX_S).default(0).meta({
      description: "Seconds until a service is expected to be there again; players do not try before.",
    }),
    url: z
      .url({ protocol: /^https?$/ })
      .max(2_048)
      .optional()
      .meta({
        description: "Address at which players find it then, when that is another one.",
      }),
  })
  .meta({ id: "Drain" });

export const Draining = z
  .object({ connections: z.int().meta({ description: "Players who are told to come back." }) })
  .meta({ id: "Draining" });
export type Draining = z.infer<typeof Draining>;
