import { z } from "zod";
import {
  CancelReservation,
  ChangeByOperator,
  EndRun,
  OpenByOperator,
  OpenedRoom,
  PutInRoom,
  ReadyMember,
  ReservationList,
  ReservePlace,
} from "../operated-rooms.ts";
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
  TravelExplanation,
  Unban,
} from "../operator-api.ts";
import { PrivateEntryList } from "../private-entries.ts";
import { BackfillRoom } from "../queues.ts";
import { RoomResult, SetResult } from "../results.ts";
import { RoomKindList } from "../room-kinds.ts";
import { RoomView } from "../views.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "rooms";
const params = z.object({ room: z.string().max(64).meta({ description: "Id or code of a room." }) });

const looks = { method: "GET", tag, needs: "look" } as const;
const verbs = { method: "POST", tag, needs: "operate", params, reply: Revised } as const;

const conditional = { headers: ["if-match"] } as const;

/** Rooms as operators see them, and what operators may do to them. */
export const roomRoutes = {
  rooms: { ...looks, path: "/v1/rooms", summary: "Rooms, the newest first.", query: RoomQuery, reply: RoomPage },
  room: {
    ...looks,
    path: "/v1/rooms/:room",
    summary: "One room, by id or code. Its entity tag is its revision.",
    tagged: true,
    params,
    reply: RoomView,
  },
  result: {
    ...looks,
    path: "/v1/rooms/:room/result",
    summary:
      "The result of a room's last run that had one, complete: with the payload also where members are not shown it.",
    params,
    reply: RoomResult,
  },
  roomKinds: {
    ...looks,
    path: "/v1/room-kinds",
    summary: "The kinds of rooms that there are, with what their settings may be.",
    reply: RoomKindList,
  },
  openRoom: {
    method: "POST",
    tag,
    needs: "operate",
    path: "/v1/rooms",
    summary: "Open a room with nobody in it; the first to join is its host. The same key opens no other room.",
    headers: ["idempotency-key"],
    body: OpenByOperator,
    example: { lobby: "quayside", kind: "crews", name: "Final", level: "brine-gate", visibility: "code-only" },
    reply: OpenedRoom,
  },
  changeRoom: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/change",
    summary: "Change name, capacity, visibility, level or free settings of a room, by merge patch.",
    body: ChangeByOperator,
    example: { settings: { tide: "spring" } },
  },
  putInRoom: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/put",
    summary: "Bring a player into a room, out of the one it is in, also while it plays and where it is locked.",
    body: PutInRoom,
    example: { player: "p_8fkx2m9qw4zr", side: "ebb" },
  },
  readyMember: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/ready",
    summary: "Say for a member that it is ready, or is not.",
    body: ReadyMember,
    example: { player: "p_8fkx2m9qw4zr" },
  },
  startRoom: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/start",
    summary: "Start a room; refused with everything that is missing.",
    body: z.strictObject({}).meta({ id: "StartRoom" }),
    example: {},
  },
  endRun: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/end",
    summary: "End what a room is doing: a countdown stops, a run is void, results are put away.",
    body: EndRun,
    example: { reason: "the tournament is over" },
  },
  privateEntries: {
    ...looks,
    path: "/v1/rooms/:room/private-entries",
    summary: "What only some members of a room see, whoever it is for.",
    params,
    reply: PrivateEntryList,
  },
  reservations: {
    ...looks,
    path: "/v1/rooms/:room/reservations",
    summary: "The places that a room keeps for somebody, and for whom.",
    params,
    reply: ReservationList,
  },
  reservePlace: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/reservations",
    summary: "Keep a place for an account or a player: it may join although the room is full, locked or playing.",
    body: ReservePlace,
    example: { for: { account: "tidewrights:1201" }, name: "Ansel", forMs: 120_000 },
  },
  cancelReservation: {
    ...verbs,
    ...conditional,
    path: "/v1/rooms/:room/reservations/cancel",
    summary: "Keep a place for somebody no longer.",
    body: CancelReservation,
    example: { for: { account: "tidewrights:1201" } },
  },
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
