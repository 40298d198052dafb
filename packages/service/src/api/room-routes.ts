import { type Command, explainRoom, type Harbor, roomView } from "@yellow-harbor/core";
import {
  CloseRoom,
  HandOver,
  PutOut,
  problem,
  Revised,
  RoomExplanation,
  RoomPage,
  RoomQuery,
  RoomView,
} from "@yellow-harbor/protocol";
import type { FastifyReply } from "fastify";
import { z } from "zod";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["rooms"];
const security = [{ operatorToken: [] }];

const RoomParams = z.object({ room: z.string().max(64).meta({ description: "Id or code of a room." }) });

/** Rooms as operators see them, and what operators may do to them. */
export function roomRoutes(api: Api, parts: ApiParts): void {
  const { runtime } = parts;
  roomVerbs(api, parts);
  const listSchema = {
    tags,
    security,
    summary: "Rooms, in the order of their ids.",
    querystring: RoomQuery,
    response: { 200: RoomPage },
  };
  api.get("/v1/rooms", { schema: listSchema }, async ({ query: { limit, after, lobby, phase } }) =>
    runtime.query(({ state }) => {
      const wanted = [...state.rooms.byId.values()]
        .filter(
          (room) => (lobby === undefined || room.lobby === lobby) && (phase === undefined || room.phase === phase),
        )
        .sort((a, b) => (a.id < b.id ? -1 : 1));
      const from = after === undefined ? 0 : wanted.findIndex((room) => room.id > after);
      const page = from < 0 ? [] : wanted.slice(from, from + limit);
      const hasMore = from >= 0 && from + limit < wanted.length;
      return { rooms: page.map((room) => roomView(state, room)), ...(hasMore && { next: page.at(-1)?.id }) };
    }),
  );

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
    ...{ tags, security, params: RoomParams, response: { 200: RoomExplanation } },
    summary: "Why a room can or cannot start, or what it waits for.",
  };
  api.get("/v1/rooms/:room/explain", { schema: explainSchema }, async ({ params }, reply) => {
    const explained = await runtime.query((harbor, atMs) => {
      const room = findRoom(harbor, params.room);
      return room && explainRoom(harbor.state, room, atMs);
    });
    return explained ?? sendProblem(reply, unknownRoom(params.room));
  });
}

function findRoom({ state }: Harbor, idOrCode: string) {
  const { byId, byCode } = state.rooms;
  return byId.get(idOrCode) ?? byId.get(byCode.get(idOrCode.replace(/[\s-]/g, "").toUpperCase()) ?? "");
}

const unknownRoom = (idOrCode: string) =>
  problem(
    "room-unknown",
    `There is no room ${idOrCode}; rooms close when the last member leaves. \`yh room list\` shows those there are.`,
  );

function roomVerbs(api: Api, { runtime }: ApiParts): void {
  /** Finds the room by id or code, then has the command decided for it. */
  const carryOut = async (
    reply: FastifyReply,
    idOrCode: string,
    commandFor: (room: string) => Command,
  ): Promise<FastifyReply> => {
    const id = await runtime.query((harbor) => findRoom(harbor, idOrCode)?.id);
    if (id === undefined) return sendProblem(reply, unknownRoom(idOrCode));
    const settled = await runtime.ask(commandFor(id));
    return "refused" in settled ? sendProblem(reply, settled.refused) : reply.send(settled.reply);
  };
  const verb = <B extends z.ZodType>(summary: string, body: B) => ({
    tags,
    security,
    summary,
    params: RoomParams,
    body,
    response: { 200: Revised },
  });

  const close = verb("Close a room: its members are told why and stand in the lobby again.", CloseRoom);
  api.post("/v1/rooms/:room/close", { schema: close }, async ({ params, body }, reply) => {
    await carryOut(reply, params.room, (room) => ({ do: "room.dissolve", room, reason: body.reason }));
    return reply;
  });
  const putOut = verb("Put a member out of a room; with ban it cannot come back in.", PutOut);
  api.post("/v1/rooms/:room/put-out", { schema: putOut }, async ({ params, body }, reply) => {
    await carryOut(reply, params.room, (room) => ({
      do: "room.operator-put-out",
      room,
      player: body.player,
      reason: body.reason,
      ban: body.ban,
    }));
    return reply;
  });
  const handOver = verb("Make another member the host of a room.", HandOver);
  api.post("/v1/rooms/:room/hand-over", { schema: handOver }, async ({ params, body }, reply) => {
    await carryOut(reply, params.room, (room) => ({ do: "room.operator-hand-over", room, to: body.to }));
    return reply;
  });
}
