import { z } from "zod";
import { OwnAttributes, PlayerAttributes } from "./attributes.ts";
import { ConfigName } from "./ids.ts";
import { RegionList } from "./regions.ts";
import { directoryRequests } from "./requests/directory.ts";
import { entryRequests } from "./requests/entry.ts";
import { governingRequests } from "./requests/governing.ts";
import { invitingRequests } from "./requests/inviting.ts";
import { partyRequests } from "./requests/parties.ts";
import { playingRequests } from "./requests/playing.ts";
import { privateRequests } from "./requests/private-entries.ts";
import { queueRequests } from "./requests/queues.ts";
import { relationRequests } from "./requests/relations.ts";
import { Nothing, NothingMore } from "./requests/shapes.ts";
import { travelRequests } from "./requests/travel.ts";
import { RoomKindList } from "./room-kinds.ts";
import { SettingsPatch } from "./settings.ts";
import { ChatMessage } from "./text.ts";
import { LevelView, LobbySummary, LobbyView } from "./views.ts";

/** What a player may ask, each with the shape of its arguments and of its reply. */
export const playerRequests = {
  "level.list": {
    summary: "Levels of the game, by name.",
    args: Nothing,
    reply: z.object({ levels: z.array(LevelView) }),
  },
  "region.list": {
    summary: "The regions in which matches are played, with where one measures the latency to them.",
    args: Nothing,
    reply: RegionList,
  },
  "room.kinds": {
    summary: "The kinds of rooms that the player's lobby has, with what their settings may be.",
    args: Nothing,
    reply: RoomKindList,
  },
  ...directoryRequests,
  "lobby.list": {
    summary: "The lobbies of the harbor, in numbers.",
    args: Nothing,
    reply: z.object({ lobbies: z.array(LobbySummary) }),
  },
  "player.switch-lobby": {
    summary: "Go to another lobby, as the same player: from the lobby, while one neither searches nor is in a party.",
    args: z.strictObject({ lobby: ConfigName }),
    reply: z.object({ lobby: LobbyView }),
  },
  "lobby.chat": {
    summary: "Say something to everybody in the lobby, where it lets people chat.",
    args: z.strictObject({ text: ChatMessage }),
    reply: z.object({ delivered: z.int().meta({ description: "Players who are connected and were sent it." }) }),
  },
  ...entryRequests,
  ...invitingRequests,
  ...governingRequests,
  ...playingRequests,
  ...privateRequests,
  ...travelRequests,
  ...queueRequests,
  ...partyRequests,
  ...relationRequests,
  "player.attributes": {
    summary: "What one brings into every room, and what it may be.",
    args: Nothing,
    reply: OwnAttributes,
  },
  "player.set-attributes": {
    summary: "Say what one brings into every room: a merge patch on one's attributes, null for the default.",
    args: z.strictObject({ attributes: SettingsPatch }),
    reply: z.object({ attributes: PlayerAttributes }),
  },
  "player.leave": {
    summary: "Say goodbye: leave the room and the lobby for good. The service closes the socket with 1000.",
    args: Nothing,
    reply: NothingMore,
  },
} as const satisfies Record<string, { summary: string; args: z.ZodType; reply: z.ZodType }>;

export type PlayerRequests = typeof playerRequests;
export type PlayerAsk = keyof PlayerRequests;
export type PlayerArgs<A extends PlayerAsk> = z.output<PlayerRequests[A]["args"]>;
export type PlayerArgsTyped<A extends PlayerAsk> = z.input<PlayerRequests[A]["args"]>;
export type PlayerReply<A extends PlayerAsk> = z.output<PlayerRequests[A]["reply"]>;

export const playerAsks = Object.keys(playerRequests) as [PlayerAsk, ...PlayerAsk[]];
