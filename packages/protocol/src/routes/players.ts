import { z } from "zod";
import { PlayerId } from "../ids.ts";
import { Acknowledged } from "../instance-protocol.ts";
import {
  MoveToLobby,
  NotifyMany,
  PlayerKick,
  PlayerPage,
  PlayersQuery,
  PlayerView,
  Said,
  Say,
} from "../operator-api.ts";
import { PlayerHistory, PlayerPastQuery } from "../player-history.ts";
import { RelationsView, SetRelations } from "../relations.ts";
import { ReportList, ReportQuery } from "../reports.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "players";
const params = z.object({ player: PlayerId });
const named = z.object({ player: z.string().max(200).meta({ description: "Id or account of a player." }) });

/** Players as operators see them, and what operators may do to one. */
export const playerRoutes = {
  players: {
    method: "GET",
    path: "/v1/players",
    tag,
    needs: "look",
    summary: "Players, in the order of their ids.",
    query: PlayersQuery,
    reply: PlayerPage,
  },
  player: {
    method: "GET",
    path: "/v1/players/:player",
    tag,
    needs: "look",
    summary: "One player, by id or account.",
    params: named,
    reply: PlayerView,
  },
  playerHistory: {
    method: "GET",
    path: "/v1/players/:player/history",
    tag,
    needs: "look",
    summary:
      "What a player did, what happened to it and what it was refused lately, by its id, or by the account of one who is here.",
    params: named,
    query: PlayerPastQuery,
    reply: PlayerHistory,
  },
  reports: {
    method: "GET",
    path: "/v1/reports",
    tag,
    needs: "look",
    summary: "What players told of each other's conduct, the newest first.",
    query: ReportQuery,
    reply: ReportList,
  },
  relations: {
    method: "GET",
    path: "/v1/players/:player/relations",
    tag,
    needs: "look",
    summary: "Whom a player knows and has blocked, by id or account.",
    params: named,
    reply: RelationsView,
  },
  setRelations: {
    method: "POST",
    path: "/v1/players/:player/relations",
    tag,
    needs: "operate",
    summary: "Say whom a player knows, or has blocked. It holds while the player is in the harbor.",
    params: named,
    body: SetRelations,
    example: { friends: ["game:4711", "game:4712"] },
    reply: RelationsView,
  },
  moveToLobby: {
    method: "POST",
    path: "/v1/players/:player/lobby",
    tag,
    needs: "operate",
    summary: "Move a player to another lobby: one who is in no room, and neither searches nor is in a party.",
    params: named,
    body: MoveToLobby,
    example: { lobby: "far-light" },
    reply: PlayerView,
  },
  kick: {
    method: "POST",
    path: "/v1/players/:player/kick",
    tag,
    needs: "operate",
    summary:
      "Put a player out of the harbor: it is told why, its connection ends, and its token is worth nothing any more.",
    params,
    body: PlayerKick,
    example: { reason: "rude" },
    reply: Acknowledged,
  },
  notifyPlayer: {
    method: "POST",
    path: "/v1/players/:player/notify",
    tag,
    needs: "operate",
    summary: "Say something to a player.",
    params,
    body: Say,
    example: { text: "Your report was read, thank you." },
    reply: Said,
  },
  notifyAll: {
    method: "POST",
    path: "/v1/players/notify",
    tag,
    needs: "operate",
    summary: "Say something to everybody, or to all players of a lobby, in rooms or not.",
    body: NotifyMany,
    example: { text: "The service restarts in five minutes.", lobby: "quayside" },
    reply: Said,
  },
} as const satisfies HttpRoutes;
