import { explainJoin, explainRoom, explainTravel, roomView } from "@yellow-harbor/core";
import {
  JoinExplanation,
  JoinQuery,
  problem,
  RoomExplanation,
  RoomPage,
  RoomQuery,
  RoomView,
  TravelExplanation,
} from "@yellow-harbor/protocol";
import { findRoom, RoomParams, unknownRoom } from "./find-room.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";
import { roomVerbs } from "./room-verbs.ts";

const tags = ["rooms"];
const security = [{ operatorToken: [] }];

/** Rooms as operators see them, and what operators may do to them. */
export function roomRoutes(api: Api, parts: ApiParts): void {
  const { runtime } = parts;
  roomVerbs(api, parts);
  const listSchema = {
    tags,
    security,
    summary: "Rooms, the newest first.",
    querystring: RoomQuery,
    response: { 200: RoomPage },
  };
  api.get("/v1/rooms", { schema: listSchema }, async ({ query: { limit, after, lobby, phase } }, reply) => {
    if (lobby !== undefined && !runtime.rules.lobbies.has(lobby)) {
      const accepted = [...runtime.rules.lobbies.keys()];
      const detail = `There is no lobby ${lobby}; the lobbies are ${accepted.join(", ")}.`;
      return sendProblem(reply, problem("lobby-unknown", detail, { accepted }));
    }
    return runtime.query(({ state }) => {
      const wanted = [...state.rooms.byId.values()]
        .filter(
          (room) =>
            (lobby === undefined || room.lobby === lobby) && (phase === undefined || room.stage.phase === phase),
        )
        .sort((a, b) => b.openedAtMs - a.openedAtMs || (a.id < b.id ? -1 : 1));
      const [openedAtMs = 0, id = ""] =
        after === undefined ? [] : [Number(after.split("_")[0]), after.replace(/^\d+_/, "")];
      const isBehind = (room: (typeof wanted)[number]) =>
        room.openedAtMs < openedAtMs || (room.openedAtMs === openedAtMs && room.id > id);
      const from = after === undefined ? 0 : wanted.findIndex(isBehind);
      const page = from < 0 ? [] : wanted.slice(from, from + limit);
      const last = page.at(-1);
      const hasMore = last !== undefined && from + limit < wanted.length;
      return {
        rooms: page.map((room) => roomView(state, room)),
        ...(hasMore && { next: `${last.openedAtMs}_${last.id}` }),
      };
    });
  });

  const showSchema = {
    tags,
    security,
    summary: "One room, by id or code.",
    params: RoomParams,
    response: { 200: RoomView },
  };
  api.get("/v1/rooms/:room", { schema: showSchema }, async ({ params }, reply) => {
    const view = await runtime.query((harbor) => {
      const room = findRoom(harbor, params.room);
      return room && roomView(harbor.state, room);
    });
    return view ?? sendProblem(reply, unknownRoom(params.room));
  });

  const explainSchema = {
    tags,
    security,
    params: RoomParams,
    response: { 200: RoomExplanation },
    summary: "Why a room can or cannot start, or what it waits for.",
  };
  explainJoinRoute(api, parts);
  api.get("/v1/rooms/:room/explain", { schema: explainSchema }, async ({ params }, reply) => {
    const explained = await runtime.query((harbor, atMs) => {
      const room = findRoom(harbor, params.room);
      return room && explainRoom(harbor.state, room, atMs);
    });
    return explained ?? sendProblem(reply, unknownRoom(params.room));
  });
  explainTravelRoute(api, parts);
}

function explainTravelRoute(api: Api, { runtime }: ApiParts): void {
  const schema = {
    tags,
    security,
    params: RoomParams,
    response: { 200: TravelExplanation },
    summary: "Whom a room's travel waits for, since when, and what happens next and when.",
  };
  api.get("/v1/rooms/:room/explain-travel", { schema }, async ({ params }, reply) => {
    const explained = await runtime.query((harbor, atMs) => {
      const room = findRoom(harbor, params.room);
      return room && explainTravel(harbor.state, room, atMs);
    });
    return explained ?? sendProblem(reply, unknownRoom(params.room));
  });
}

function explainJoinRoute(api: Api, { runtime }: ApiParts): void {
  const schema = {
    tags,
    security,
    params: RoomParams,
    querystring: JoinQuery,
    response: { 200: JoinExplanation },
    summary: "Why a player may or may not join a room, and what would change it.",
  };
  api.get("/v1/rooms/:room/explain-join", { schema }, async ({ params, query: { player } }, reply) => {
    const explained = await runtime.query((harbor) => {
      const room = findRoom(harbor, params.room);
      return room === undefined
        ? unknownRoom(params.room)
        : (explainJoin(harbor.state, room, player) ?? unknownPlayer(player));
    });
    return "canJoin" in explained ? explained : sendProblem(reply, explained);
  });
}

const unknownPlayer = (id: string) =>
  problem("player-unknown", `There is no player ${id}; \`yh player list\` shows those there are.`);
