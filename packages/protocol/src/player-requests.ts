import { z } from "zod";
import { BoardKey, OnLeave } from "./board.ts";
import { ConfigName, PlayerId, RoomCode, RoomId } from "./ids.ts";
import { PlayerJson } from "./json-value.ts";
import { CAPACITY_MAX, CAPACITY_MIN } from "./limits.ts";
import { DisplayName, Reason } from "./text.ts";
import { LevelView, LobbyView, RoomListing, RoomView, Visibility } from "./views.ts";

const Nothing = z.strictObject({});
const Done = z.object({ revision: z.int().meta({ description: "Revision of the room after the change." }) });

const IfRevision = z.int().nonnegative().optional().meta({
  description: "Compare and set: 0 for an entry that must not be there yet.",
});

/** What a player may ask, each with the shape of its arguments and of its reply. The one place to add a request. */
export const playerRequests = {
  "level.list": {
    summary: "Levels of the game, by name.",
    args: Nothing,
    reply: z.object({ levels: z.array(LevelView) }),
  },
  "lobby.rooms": {
    summary: "The directory of the lobby the player belongs to, newest rooms first.",
    args: z.strictObject({ limit: z.int().min(1).max(200).default(50) }),
    reply: z.object({ rooms: z.array(RoomListing), total: z.int() }),
  },
  "room.open": {
    summary: "Open a room and become its host.",
    args: z.strictObject({
      kind: ConfigName.optional().meta({ description: "Room kind; the lobby's first one when absent." }),
      name: DisplayName.optional().meta({ description: "Name of the room; made from the host's when absent." }),
      capacity: z.int().min(CAPACITY_MIN).max(CAPACITY_MAX).optional(),
    }),
    reply: z.object({ room: RoomView }),
  },
  "room.join": {
    summary: "Join a room by its id or by its code. The reply is the complete picture of the room.",
    args: z.union([z.strictObject({ room: RoomId }), z.strictObject({ code: RoomCode })]),
    reply: z.object({ room: RoomView }),
  },
  "room.leave": {
    summary: "Leave the room and stand in its lobby again.",
    args: Nothing,
    reply: z.object({ lobby: LobbyView }),
  },
  "room.pick-level": {
    summary: "Pick the level to travel to. Host only, while gathering.",
    args: z.strictObject({ level: ConfigName }),
    reply: Done,
  },
  "room.change": {
    summary: "Change name, capacity or visibility. Host only; capacity while gathering, never below who is in.",
    args: z.strictObject({
      name: DisplayName.optional(),
      capacity: z.int().min(CAPACITY_MIN).max(CAPACITY_MAX).optional(),
      visibility: Visibility.optional(),
      basedOn: z.int().nonnegative().optional().meta({
        description: "The settingsRevision the change was made from; refused as stale when it is not the present one.",
      }),
    }),
    reply: Done,
  },
  "room.hand-over": {
    summary: "Make another member the host. Host only.",
    args: z.strictObject({ to: PlayerId }),
    reply: Done,
  },
  "room.put-out": {
    summary: "Put a member out of the room; with ban it cannot come back in. Host only.",
    args: z.strictObject({ player: PlayerId, reason: Reason.optional(), ban: z.boolean().default(false) }),
    reply: Done,
  },
  "room.seek": {
    summary: "Join the best open room of one's lobby, the fullest first and among those the oldest; else open one.",
    args: z.strictObject({ kind: ConfigName.optional(), level: ConfigName.optional() }),
    reply: z.object({ room: RoomView, opened: z.boolean() }),
  },
  "room.ready": {
    summary: "Say that one is ready, or is not, while gathering.",
    args: z.strictObject({ ready: z.boolean() }),
    reply: Done,
  },
  "room.start": {
    summary: "Start the travel. Host only; refused with what is missing until everything is there; works once.",
    args: Nothing,
    reply: Done,
  },
  "room.write": {
    summary:
      "Write an entry of the room's board: a new one, one's own, or any as host. With ifRevision only if it is still that one.",
    args: z.strictObject({
      key: BoardKey,
      value: PlayerJson,
      onLeave: OnLeave.optional().meta({ description: "remove when left out and the entry is new." }),
      ifRevision: IfRevision,
    }),
    reply: Done,
  },
  "room.erase": {
    summary: "Remove an entry of the room's board: one's own, or any as host.",
    args: z.strictObject({ key: BoardKey, ifRevision: IfRevision }),
    reply: Done,
  },
  "room.relay": {
    summary: "Pass a message to members of the room: not state, not kept, ordered per room.",
    args: z.strictObject({
      to: z
        .union([z.enum(["all", "others"]), PlayerId])
        .default("others")
        .meta({ description: "all, others (all but oneself), or one member." }),
      body: PlayerJson,
    }),
    reply: z.object({ delivered: z.int().meta({ description: "Members who are connected and were sent it." }) }),
  },
  "room.stop-count": {
    summary: "Stop the countdown. Host only.",
    args: Nothing,
    reply: Done,
  },
  "player.leave": {
    summary: "Say goodbye: leave the room and the lobby for good. The service closes the socket with 1000.",
    args: Nothing,
    reply: Nothing,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;

export type PlayerRequests = typeof playerRequests;
export type PlayerAsk = keyof PlayerRequests;
export type PlayerArgs<A extends PlayerAsk> = z.output<PlayerRequests[A]["args"]>;
export type PlayerArgsTyped<A extends PlayerAsk> = z.input<PlayerRequests[A]["args"]>;
export type PlayerReply<A extends PlayerAsk> = z.output<PlayerRequests[A]["reply"]>;

export const playerAsks = Object.keys(playerRequests) as [PlayerAsk, ...PlayerAsk[]];
