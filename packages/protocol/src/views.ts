import { z } from "zod";
import { PlayerAttributes } from "./attributes.ts";
import { Address, AtMs, Revision, Transport } from "./basics.ts";
import { BoardEntryView, BoardKey } from "./board.ts";
import { ConfigName, InstanceId, PlayerId, RoomId, RunId, SideName } from "./ids.ts";
import { CODE_LENGTH } from "./limits.ts";
import { Missing, ProblemCode } from "./problems.ts";
import { QueueSummary } from "./queues.ts";
import { EchoUrl } from "./regions.ts";
import { ResultView, SeriesView } from "./results.ts";
import { Attributes, Settings } from "./settings.ts";
import { DestinationView, TravelView } from "./travel.ts";

export const Phase = z
  .enum(["gathering", "counting", "travelling", "playing", "results", "closed"])
  .meta({ id: "Phase", description: "Phase of a room." });
export type Phase = z.infer<typeof Phase>;

export const Presence = z
  .enum(["here", "away"])
  .meta({ id: "Presence", description: "here, or away while its place is kept." });
export type Presence = z.infer<typeof Presence>;

export const Attention = z.enum(["background", "silent"]).meta({
  id: "Attention",
  description:
    "background: its game is not in front, by its own word; silent: its connection answers, its game sends nothing.",
});
export type Attention = z.infer<typeof Attention>;

export const Visibility = z.enum(["listed", "code-only", "locked"]).meta({
  id: "Visibility",
  description: "listed: in the directory; code-only: joined by code alone; locked: nobody new comes in.",
});
export type Visibility = z.infer<typeof Visibility>;

const RoomRegion = ConfigName.optional().meta({ description: "Region it plays in; any when absent." });

const HasPassword = z
  .literal(true)
  .optional()
  .meta({ description: "Whoever joins has to say the room's password; none when absent." });

export const LevelView = z
  .object({
    id: ConfigName,
    title: z.string(),
    min: z.int(),
    max: z.int(),
    attributes: Attributes.optional(),
  })
  .meta({ id: "Level", description: "A place to play in, and for how many." });
export type LevelView = z.infer<typeof LevelView>;

export const LobbyPlayerView = z
  .object({ id: PlayerId, name: z.string(), presence: Presence })
  .meta({ id: "LobbyPlayer" });
export type LobbyPlayerView = z.infer<typeof LobbyPlayerView>;

/** A lobby as its players see it. Update patches it. */
export const LobbyView = z
  .object({
    id: ConfigName,
    revision: Revision,
    players: z
      .record(PlayerId, LobbyPlayerView)
      .optional()
      .meta({ description: "Who is in it, by name; absent while it is crowded." }),
    counts: z
      .object({
        players: z.int().meta({ description: "Players who are in the lobby." }),
        rooms: z.int().meta({ description: "Rooms of the lobby." }),
        inRooms: z.int().meta({ description: "Players in those rooms." }),
        searching: z.int().meta({ description: "Players who search in the lobby's queues." }),
      })
      .meta({ description: "Brought up to date about once a second." }),
  })
  .meta({ id: "Lobby", description: "A lobby as the players in it see it." });
export type LobbyView = z.infer<typeof LobbyView>;

export const MemberView = z
  .object({
    id: PlayerId,
    name: z.string(),
    place: z
      .int()
      .nonnegative()
      .meta({ description: "Stable number in the room; the lowest free one is given first." }),
    side: SideName.optional().meta({ description: "Where the room kind has sides." }),
    role: z.string().optional().meta({ description: "What it was matched for, where its queue has a line-up." }),
    ready: z.boolean(),
    presence: Presence,
    latencyMs: z.number().optional().meta({ description: "Smoothed round trip to the service." }),
    jitterMs: z.number().optional().meta({ description: "Mean deviation of the round trip." }),
    peersMs: z.record(PlayerId, z.number()).optional().meta({
      description: "Round trips to other members, as this one has told.",
    }),
    swapWith: PlayerId.optional().meta({ description: "The member it offers to change place and side with." }),
    awayUntilMs: AtMs.optional().meta({ description: "While away: when the place is given up." }),
    attention: Attention.optional().meta({ description: "Absent while the game is in front and answers." }),
    aboard: z.boolean().optional().meta({ description: "true once it has arrived in the level of the run." }),
    vote: ConfigName.optional().meta({ description: "The level it is for, where levels are voted for." }),
    attributes: PlayerAttributes.optional().meta({ description: "What it brings; absent when there is nothing." }),
  })
  .meta({ id: "Member", description: "A player in a room." });
export type MemberView = z.infer<typeof MemberView>;

export const SpectatorView = z
  .object({
    id: PlayerId,
    name: z.string(),
    presence: Presence,
    awayUntilMs: AtMs.optional().meta({ description: "While away: when it is given up." }),
  })
  .meta({ id: "Spectator", description: "A player who looks on." });
export type SpectatorView = z.infer<typeof SpectatorView>;

export const TurnView = z
  .object({
    holder: PlayerId,
    number: z.int().min(1).meta({ description: "Goes up by one each time the turn is passed." }),
    endsAtMs: AtMs.optional().meta({ description: "When it passes on by itself." }),
  })
  .meta({ id: "Turn", description: "Whose turn it is." });
export type TurnView = z.infer<typeof TurnView>;

export const SideView = z
  .object({ members: z.int(), max: z.int() })
  .meta({ id: "Side", description: "A side in numbers." });

export const SetbackView = z
  .object({ code: ProblemCode, detail: z.string(), atMs: AtMs })
  .meta({ id: "Setback", description: "Why the last travel or run ended without a result." });
export type SetbackView = z.infer<typeof SetbackView>;

export const RoomCodeText = z.string().length(CODE_LENGTH).meta({ description: "Short code by which people join." });

/** A room as its members see it: whole for a newcomer, patched by update afterwards. */
export const RoomView = z
  .object({
    id: RoomId,
    code: RoomCodeText,
    name: z.string(),
    lobby: ConfigName,
    kind: ConfigName,
    capacity: z.int(),
    region: RoomRegion,
    visibility: Visibility,
    hasPassword: HasPassword,
    build: z.string().meta({ description: "Build of the one who opened it; only players with the same come in." }),
    settings: Settings,
    settingsRevision: Revision.meta({
      description: "Goes up with each change of name, capacity, visibility, level or settings.",
    }),
    revision: Revision,
    phase: Phase,
    host: PlayerId.optional().meta({ description: "The member with the powers; absent only while nobody is in it." }),
    level: LevelView.optional(),
    sides: z.record(SideName, z.int()).optional().meta({ description: "Sides and how many each takes." }),
    members: z.record(PlayerId, MemberView),
    spectators: z
      .object({
        max: z.int(),
        delayMs: z.int().meta({ description: "How far behind the run spectators are shown it." }),
        players: z.record(PlayerId, SpectatorView),
      })
      .optional()
      .meta({ description: "Who looks on; absent where the room kind has no spectators." }),
    banned: z.array(PlayerId).meta({ description: "Players who are banned from the room." }),
    reserved: z
      .array(
        z.object({
          name: z.string().optional().meta({ description: "Whom it is kept for, where that was said." }),
          side: SideName.optional(),
          untilMs: AtMs,
        }),
      )
      .optional()
      .meta({ description: "Places that are kept for somebody; absent when there are none." }),
    turn: TurnView.optional(),
    board: z.record(BoardKey, BoardEntryView).meta({ description: "What all members share, and newcomers get whole." }),
    missing: z.array(Missing).meta({ description: "What is missing before start; empty when start would work." }),
    backfill: z
      .object({ queue: ConfigName, untilMs: AtMs, places: z.int().meta({ description: "Players it still takes." }) })
      .optional()
      .meta({ description: "While its queue looks for players in the place of those who left." }),
    startsAtMs: AtMs.optional().meta({ description: "While counting: when the travel starts." }),
    gathersAtMs: AtMs.optional().meta({ description: "While showing results: when it gathers again by itself." }),
    run: RunId.optional().meta({ description: "The run under way while travelling or playing." }),
    travel: TravelView.optional(),
    destination: DestinationView.optional().meta({ description: "While playing: where." }),
    series: SeriesView.optional().meta({
      description: "Absent where the room kind has none, and before its first result.",
    }),
    result: ResultView.optional().meta({ description: "Result of the last run that had one." }),
    setback: SetbackView.optional(),
    openedAtMs: AtMs,
  })
  .meta({ id: "Room", description: "A room as its members see it." });
export type RoomView = z.infer<typeof RoomView>;

/** A room as the directory of its lobby lists it. */
export const RoomListing = z
  .object({
    id: RoomId,
    code: RoomCodeText,
    name: z.string(),
    kind: ConfigName,
    host: z.string().meta({ description: "Name of the host." }),
    phase: Phase,
    level: LevelView.optional(),
    members: z.int(),
    capacity: z.int(),
    reserved: z.int().optional().meta({ description: "Places that are kept for somebody; none when absent." }),
    visibility: Visibility,
    hasPassword: HasPassword,
    isOpen: z.boolean().meta({ description: "Whether there is a place and the room takes somebody in now." }),
    build: z.string(),
    region: RoomRegion,
    echo: EchoUrl.optional().meta({ description: "Where the host's own world answers echoes, by its word." }),
    settings: Settings,
    sides: z.record(SideName, SideView).optional(),
    latencyMs: z.number().optional().meta({ description: "Median of its members' latencies." }),
    openedAtMs: AtMs,
  })
  .meta({ id: "RoomListing", description: "A room as the directory lists it." });
export type RoomListing = z.infer<typeof RoomListing>;

/** The proof a player shows the instance to take its berth. */
export const BoardingPass = z
  .object({
    room: RoomId,
    run: RunId,
    level: ConfigName,
    instance: InstanceId.optional().meta({ description: "The instance it is for, unless a member runs the world." }),
    player: PlayerId.optional().meta({ description: "The member who runs the world, when one does." }),
    address: Address.meta({ description: "Where to go; of a member's addresses the first." }),
    relay: z.string().optional().meta({
      description: "Path of a secure socket at the service that leads to the instance, where that is switched on.",
    }),
    pass: z.string().meta({ description: "Compact JWS (RFC 7515). Show it where you arrive; it works once." }),
    expiresAtMs: AtMs,
  })
  .meta({ id: "BoardingPass", description: "Address and proof of admission for one player." });
export type BoardingPass = z.infer<typeof BoardingPass>;

export const InstanceState = z
  .enum(["launched", "booting", "open", "busy", "draining", "ended", "failed"])
  .meta({ id: "InstanceState", description: "State of an instance." });
export type InstanceState = z.infer<typeof InstanceState>;

export const BerthView = z
  .object({
    player: PlayerId,
    name: z.string(),
    state: z.enum(["reserved", "taken", "left"]),
    room: RoomId.optional(),
  })
  .meta({ id: "Berth", description: "One player's reserved place on an instance." });
export type BerthView = z.infer<typeof BerthView>;

export const InstanceView = z
  .object({
    id: InstanceId,
    pool: ConfigName,
    build: z.string().meta({ description: "Build line." }),
    version: z.string().meta({ description: "The version of it that it runs." }),
    machine: ConfigName,
    region: z.string().optional(),
    state: InstanceState,
    why: z.string().meta({ description: "Reason of the last change of state, in words." }),
    placed: z.string().optional().meta({ description: "Why it runs on this machine, where its pool has several." }),
    changedAtMs: AtMs,
    launchedAtMs: AtMs,
    address: Address,
    ports: z.record(z.string(), z.int()).optional().meta({ description: "Ports beside its own, by purpose." }),
    transports: z
      .record(z.string(), Transport)
      .optional()
      .meta({ description: "What these ports speak, by purpose, where it is not TCP." }),
    startedAtMs: AtMs.optional().meta({ description: "Since when its process runs." }),
    pid: z.int().optional(),
    rooms: z
      .array(z.object({ room: RoomId, run: RunId.optional(), level: ConfigName.optional() }))
      .meta({ description: "The rooms that hold it, with the run that it plays for each." }),
    maxRooms: z.int().optional().meta({ description: "Rooms that it serves at once; one when absent." }),
    berths: z.array(BerthView),
    differences: z
      .array(z.object({ player: z.string(), what: z.string(), sinceMs: AtMs, text: z.string() }))
      .optional()
      .meta({ description: "Where its word about who is there is not the harbor's." }),
    exit: z.object({ code: z.int().optional(), signal: z.string().optional() }).optional().meta({
      description:
        "Once the process is gone: its exit code or the signal that ended it; neither when nobody saw it end.",
    }),
  })
  .meta({ id: "Instance", description: "One running dedicated server process." });
export type InstanceView = z.infer<typeof InstanceView>;

export const InstanceExplanation = z
  .object({ instance: InstanceView, text: z.array(z.string()) })
  .meta({ id: "InstanceExplanation", description: "Why an instance is where it is, in words." });
export type InstanceExplanation = z.infer<typeof InstanceExplanation>;

export const LobbySummary = z
  .object({
    id: ConfigName,
    title: z.string(),
    players: z.int().meta({ description: "Players in the lobby." }),
    rooms: z.int().meta({ description: "Rooms of the lobby." }),
    inRooms: z.int().meta({ description: "Players in rooms of the lobby." }),
    searching: z.int().meta({ description: "Players who search in queues of the lobby." }),
  })
  .meta({ id: "LobbySummary", description: "A lobby in numbers." });
export type LobbySummary = z.infer<typeof LobbySummary>;

/** Everything an operator watches, as one document that merge patches keep current (RFC 7396). */
export const HarborView = z
  .object({
    harbor: ConfigName,
    lobbies: z.record(ConfigName, LobbySummary),
    rooms: z.record(RoomId, RoomView),
    instances: z.record(InstanceId, InstanceView),
    queues: z.record(ConfigName, QueueSummary),
  })
  .meta({ id: "Harbor", description: "Everything an operator watches." });
export type HarborView = z.infer<typeof HarborView>;
