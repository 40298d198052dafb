import { z } from "zod";
import { BoardKey } from "./board.ts";
import { ConfigName, PartyId, PlayerId, RoomId, RunId } from "./ids.ts";
import { InvitationEnd, InvitationView } from "./invitations.ts";
import { PartyChange, PartyInvitationView, PartyLeft, PartyView } from "./parties.ts";
import { PrivateEntryView } from "./private-entries.ts";
import { ProblemCode } from "./problems.ts";
import { TicketEnd, TicketId, TicketView } from "./queues.ts";
import { DestinationKind } from "./travel.ts";
import { BoardingPass, LevelView, LobbyView, RoomView } from "./views.ts";

/** Why somebody is gone: said goodbye, connection not back in time, or went into a room (seen from the lobby). */
export const GoneReason = z.enum(["left", "lost", "kicked", "into-room"]).meta({ id: "GoneReason" });
export type GoneReason = z.infer<typeof GoneReason>;

/** What happened in a lobby, to those who are in it. */
export const LobbyUpdate = z
  .discriminatedUnion("kind", [
    z.object({ kind: z.literal("player-arrived"), player: PlayerId, name: z.string() }),
    z.object({ kind: z.literal("player-gone"), player: PlayerId, reason: GoneReason }),
    z.object({ kind: z.literal("player-away"), player: PlayerId }),
    z.object({ kind: z.literal("player-back"), player: PlayerId }),
    z.object({ kind: z.literal("counts-changed") }),
    z.object({
      kind: z.literal("crowd-changed"),
      crowded: z.boolean().meta({ description: "While crowded the lobby is told in numbers, without names." }),
    }),
  ])
  .meta({ id: "LobbyUpdate", description: "What happened in a lobby." });
export type LobbyUpdate = z.infer<typeof LobbyUpdate>;

/** Why a member is gone from a room: left by itself, went to another, not back in time, kicked, too late to travel, idle for too long, or the room was closed. */
export const DepartedReason = z
  .enum(["left", "moved", "lost", "kicked", "late", "idle", "closed"])
  .meta({ id: "DepartedReason" });
export type DepartedReason = z.infer<typeof DepartedReason>;

/** Why somebody looks on no longer: left, went to another room, was lost, was kicked, the room closed, or it has become a member. */
export const UnwatchedReason = z
  .enum(["left", "moved", "lost", "kicked", "closed", "joined"])
  .meta({ id: "UnwatchedReason" });
export type UnwatchedReason = z.infer<typeof UnwatchedReason>;

/** What happened in a room, to its members and spectators. */
export const RoomUpdate = z
  .discriminatedUnion("kind", [
    z.object({ kind: z.literal("room-opened") }),
    z.object({ kind: z.literal("member-joined"), player: PlayerId, name: z.string() }),
    z.object({
      kind: z.literal("member-left"),
      player: PlayerId,
      reason: DepartedReason,
      why: z.string().optional().meta({ description: "The reason given with kicked or closed." }),
      host: PlayerId.optional().meta({ description: "The new host, when the one who left was host." }),
    }),
    z.object({ kind: z.literal("spectator-joined"), player: PlayerId, name: z.string() }),
    z.object({
      kind: z.literal("spectator-left"),
      player: PlayerId,
      reason: UnwatchedReason,
      why: z.string().optional(),
    }),
    z.object({ kind: z.literal("spectator-away"), player: PlayerId }),
    z.object({ kind: z.literal("spectator-back"), player: PlayerId }),
    z.object({ kind: z.literal("member-away"), player: PlayerId }),
    z.object({ kind: z.literal("member-back"), player: PlayerId }),
    z.object({
      kind: z.literal("settings-changed"),
      by: PlayerId.optional().meta({ description: "Absent when an operator did." }),
    }),
    z.object({ kind: z.literal("reservations-changed") }),
    z.object({ kind: z.literal("board-changed"), key: BoardKey, by: PlayerId, removed: z.boolean() }),
    z.object({
      kind: z.literal("host-changed"),
      host: PlayerId,
      by: PlayerId.optional().meta({ description: "The host who gave it away." }),
      cause: z.enum(["given", "operator", "lost"]),
    }),
    z.object({ kind: z.literal("ban-changed"), player: PlayerId, banned: z.boolean() }),
    z.object({
      kind: z.literal("level-picked"),
      by: PlayerId.optional().meta({
        description: "Absent when the votes, the rotation or an operator have picked it.",
      }),
      level: LevelView,
    }),
    z.object({ kind: z.literal("member-moved"), player: PlayerId }),
    z.object({ kind: z.literal("attention-changed"), player: PlayerId }),
    z.object({ kind: z.literal("peers-measured"), player: PlayerId }),
    z.object({ kind: z.literal("echo-told"), player: PlayerId }),
    z.object({
      kind: z.literal("member-asked"),
      player: PlayerId,
      untilMs: z
        .int()
        .meta({ description: "Until then it has to do something, such as `room.here`, or it is in the lobby again." }),
    }),
    z.object({ kind: z.literal("member-active"), player: PlayerId }),
    z.object({ kind: z.literal("attributes-changed"), player: PlayerId }),
    z.object({ kind: z.literal("voted"), player: PlayerId, level: ConfigName }),
    z.object({ kind: z.literal("swap-offered"), player: PlayerId, with: PlayerId.optional() }),
    z.object({ kind: z.literal("members-swapped"), players: z.array(PlayerId).length(2) }),
    z.object({ kind: z.literal("sides-balanced"), by: PlayerId, moved: z.array(PlayerId) }),
    z.object({ kind: z.literal("latency-measured"), player: PlayerId }),
    z.object({
      kind: z.literal("turn-passed"),
      holder: PlayerId,
      cause: z.enum(["given", "gone", "late"]).meta({
        description: "given by somebody; gone: its holder left or is away; late: the turn took too long.",
      }),
      by: PlayerId.optional(),
    }),
    z.object({ kind: z.literal("turns-ended"), by: PlayerId.optional() }),
    z.object({ kind: z.literal("ready-changed"), player: PlayerId, ready: z.boolean() }),
    z.object({ kind: z.literal("counting"), startsAtMs: z.int() }),
    z.object({ kind: z.literal("count-stopped"), why: z.string() }),
    z.object({ kind: z.literal("started"), run: RunId, level: LevelView }),
    z.object({ kind: z.literal("travel-called"), run: RunId }),
    z.object({ kind: z.literal("travel-updated"), run: RunId }),
    z.object({ kind: z.literal("travel-boarding"), run: RunId }),
    z.object({
      kind: z.literal("travel-rerouted"),
      run: RunId,
      by: DestinationKind.meta({ description: "The destination that is tried now." }),
      why: z.string().meta({ description: "What became of the one before." }),
    }),
    z.object({ kind: z.literal("member-loading"), player: PlayerId }),
    z.object({ kind: z.literal("member-troubled"), player: PlayerId, why: z.string() }),
    z.object({ kind: z.literal("member-arrived"), player: PlayerId }),
    z.object({ kind: z.literal("member-ashore"), player: PlayerId }),
    z.object({ kind: z.literal("travel-ended"), run: RunId, completed: z.boolean() }),
    z.object({ kind: z.literal("playing"), run: RunId }),
    z.object({ kind: z.literal("result"), run: RunId }),
    z.object({
      kind: z.literal("backfill-changed"),
      wanted: z.boolean().meta({ description: "Whether its queue looks for players for it now." }),
      why: z.string(),
    }),
    z.object({ kind: z.literal("gathering"), by: PlayerId.optional() }),
    z.object({ kind: z.literal("returned"), run: RunId, code: ProblemCode, detail: z.string() }),
    z.object({ kind: z.literal("room-closed") }),
  ])
  .meta({ id: "RoomUpdate", description: "What happened in a room." });
export type RoomUpdate = z.infer<typeof RoomUpdate>;

/** What concerns one player alone. */
export const OwnUpdate = z
  .discriminatedUnion("kind", [
    z.object({ kind: z.literal("boarding-pass"), pass: BoardingPass }),
    z.object({
      kind: z.literal("out-of-room"),
      room: RoomId,
      cause: z.enum(["kicked", "closed", "late", "idle"]),
      by: z
        .enum(["host", "moderator", "operator", "instance"])
        .optional()
        .meta({ description: "Absent with late: the room kind says so." }),
      why: z.string().optional(),
      lobby: LobbyView.meta({ description: "Complete state of the lobby the player is in again." }),
    }),
    z.object({
      kind: z.literal("into-lobby"),
      lobby: LobbyView.meta({ description: "Complete state of the lobby that an operator has moved one to." }),
    }),
    z.object({ kind: z.literal("into-room"), room: RoomView.meta({ description: "Complete state of the room." }) }),
    z.object({ kind: z.literal("invited"), invitation: InvitationView }),
    z.object({ kind: z.literal("invitation-ended"), room: RoomId, cause: InvitationEnd }),
    z.object({ kind: z.literal("ticket-changed"), ticket: TicketView }),
    z.object({
      kind: z.literal("party-changed"),
      change: PartyChange,
      player: PlayerId.optional().meta({ description: "Whom the change is about." }),
      left: PartyLeft.optional().meta({ description: "With left: why." }),
      party: PartyView.meta({ description: "Complete state of the party." }),
    }),
    z.object({
      kind: z.literal("out-of-party"),
      party: PartyId,
      cause: PartyLeft,
      why: z.string().optional().meta({ description: "The reason given with kicked." }),
    }),
    z.object({ kind: z.literal("party-invited"), invitation: PartyInvitationView }),
    z.object({ kind: z.literal("party-invitation-ended"), party: PartyId, cause: InvitationEnd }),
    z.object({
      kind: z.literal("ticket-ended"),
      ticket: TicketId,
      cause: TicketEnd,
      detail: z.string(),
    }),
    z.object({
      kind: z.literal("private-entries"),
      room: RoomId,
      entries: z.array(PrivateEntryView).meta({ description: "All private entries of the room that one may see now." }),
    }),
    z.object({ kind: z.literal("private-entry-set"), room: RoomId, entry: PrivateEntryView }),
    z.object({
      kind: z.literal("private-entry-removed"),
      room: RoomId,
      owner: PlayerId,
      key: BoardKey.meta({ description: "The entry is gone, or not for one any more." }),
    }),
  ])
  .meta({ id: "OwnUpdate", description: "What concerns one player alone." });
export type OwnUpdate = z.infer<typeof OwnUpdate>;

const MissedAtMs = z.number().meta({ description: "When it happened, in milliseconds since 1970." });

const OwnRevision = z.int().meta({ description: "Which it is of all that has befallen the player alone." });

/** What befell a player and was not heard by it. */
export const Missed = z
  .discriminatedUnion("kind", [
    z.object({
      kind: z.literal("out-of-room"),
      revision: OwnRevision,
      atMs: MissedAtMs,
      room: RoomId,
      cause: z.enum(["kicked", "closed", "late", "idle"]),
      by: z.enum(["host", "moderator", "operator", "instance"]).optional(),
      why: z.string().optional(),
    }),
    z.object({
      kind: z.literal("ticket-ended"),
      revision: OwnRevision,
      atMs: MissedAtMs,
      ticket: TicketId,
      cause: TicketEnd,
      detail: z.string(),
    }),
    z.object({
      kind: z.literal("out-of-party"),
      revision: OwnRevision,
      atMs: MissedAtMs,
      party: PartyId,
      cause: PartyLeft,
      why: z.string().optional(),
    }),
  ])
  .meta({ id: "Missed", description: "Something that befell a player while it was away." });
export type Missed = z.infer<typeof Missed>;

/** A merge patch on the state the receiver holds (RFC 7396). Applying it gives the state after the update. */
export const Patch = z
  .record(z.string(), z.unknown())
  .meta({ id: "Patch", description: "Merge patch on the state the receiver holds (RFC 7396)." });
export type Patch = Record<string, unknown>;
