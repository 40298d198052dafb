import { z } from "zod";
import {
  AbortTravel,
  Ban,
  CloseRoom,
  HandOver,
  JoinExplanation,
  JoinQuery,
  Kick,
  PastQuery,
  Revised,
  RoomExplanation,
  RoomHistory,
  RoomPage,
  RoomQuery,
  Said,
  Say,
  SetResult,
  TravelExplanation,
  Unban,
} from "../operator-api.ts";
import { BackfillRoom } from "../queues.ts";
import { RoomView } from "../views.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "rooms";
const params = z.object({ room: z.string().max(64).meta({ description: "Id or code of a room." }) });

const looks = { method: "GET", tag, needs: "look" } as const;
const verbs = { method: "POST", tag, needs: "operate", params, reply: Revised } as const;

/** Rooms as operators see them, and what operators may do to them. */
export const roomRoutes = {
  rooms: { ...looks, path: "/v1/rooms", summary: "Rooms, the newest first.", query: RoomQuery, reply: RoomPage },
  room: { ...looks, path: "/v1/rooms/:room", summary: "One room, by id or code.", params, reply: RoomView },
  explainRoom: {
    ...looks,
    path: "/v1/rooms/:room/explain",
    summary: "Why a room can or cannot start, or what it waits for.",
    params,
    reply: RoomExplanation,
  },
  explainJoin: {
    ...looks,
    path: "/v1/rooms/:room/explain-join",
    summary: "Why a player may or may not join a room, and what would change it.",
    params,
    query: JoinQuery,
    reply: JoinExplanation,
  },
  explainTravel: {
    ...looks,
    path: "/v1/rooms/:room/explain-travel",
    summary: "Whom a room's travel waits for, since when, and what happens next and when.",
    params,
    reply: TravelExplanation,
  },
  history: {
    ...looks,
    path: "/v1/rooms/:room/history",
    summary: "A room as it was, by id or code, also after it has closed; the newest moment when none is named.",
    params,
    query: PastQuery,
    reply: RoomHistory,
  },
  closeRoom: {
    ...verbs,
    path: "/v1/rooms/:room/close",
    summary: "Close a room: its members are told why and are in the lobby again.",
    body: CloseRoom,
    example: { reason: "the tournament is over" },
  },
  kickFromRoom: {
    ...verbs,
    path: "/v1/rooms/:room/kick",
    summary: "Put a member out of a room; with ban it cannot come back in.",
    body: Kick,
    example: { player: "p_8fkx2m9qw4zr", reason: "away for too long", ban: false },
  },
  banFromRoom: {
    ...verbs,
    path: "/v1/rooms/:room/ban",
    summary: "Keep a player out of a room, whether it is in it now or not.",
    body: Ban,
    example: { player: "p_8fkx2m9qw4zr", reason: "rude" },
  },
  unbanFromRoom: {
    ...verbs,
    path: "/v1/rooms/:room/unban",
    summary: "Let a player come into a room again.",
    body: Unban,
    example: { player: "p_8fkx2m9qw4zr" },
  },
  handOverRoom: {
    ...verbs,
    path: "/v1/rooms/:room/hand-over",
    summary: "Make another member the host of a room.",
    body: HandOver,
    example: { to: "p_8fkx2m9qw4zr" },
  },
  setResult: {
    ...verbs,
    path: "/v1/rooms/:room/result",
    summary: "Set the result of a room's run, once, where its kind leaves that to the operator.",
    body: SetResult,
    example: { standings: [{ player: "p_8fkx2m9qw4zr", score: 12 }], note: "by the referee" },
  },
  abortTravel: {
    ...verbs,
    path: "/v1/rooms/:room/abort-travel",
    summary: "Give the travel of a room up: everybody is where they were, ready as they were.",
    body: AbortTravel,
    example: { reason: "the level is being mended" },
  },
  backfillRoom: {
    ...verbs,
    path: "/v1/rooms/:room/backfill",
    summary: "Have the queue of a playing room replace players who left, or not.",
    body: BackfillRoom,
    example: { wanted: true },
  },
  notifyRoom: {
    ...verbs,
    path: "/v1/rooms/:room/notify",
    summary: "Say something to the members of a room.",
    body: Say,
    example: { text: "The service restarts in five minutes." },
    reply: Said,
  },
} as const satisfies HttpRoutes;
