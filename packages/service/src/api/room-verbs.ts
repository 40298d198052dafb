import type { Command } from "@yellow-harbor/core";
import {
  AbortTravel,
  BackfillRoom,
  Ban,
  CloseRoom,
  HandOver,
  PutOut,
  Revised,
  Said,
  Say,
  SetResult,
  Unban,
} from "@yellow-harbor/protocol";
import type { z } from "zod";
import { findRoom, RoomParams, unknownRoom } from "./find-room.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["rooms"];
const security = [{ operatorToken: [] }];

/** What operators may do to a room. */
export function roomVerbs(api: Api, parts: ApiParts): void {
  const verb = verbMaker(api, parts);
  verb("close", {
    summary: "Close a room: its members are told why and stand in the lobby again.",
    body: CloseRoom,
    command: (room, { reason }) => ({ do: "room.dissolve", room, reason, by: "operator" }),
  });
  verb("put-out", {
    summary: "Put a member out of a room; with ban it cannot come back in.",
    body: PutOut,
    command: (room, { player, reason, ban }) => ({ do: "room.operator-put-out", room, player, reason, ban }),
  });
  verb("ban", {
    summary: "Keep a player out of a room, whether it is in it now or not.",
    body: Ban,
    command: (room, { player, reason }) => ({ do: "room.operator-ban", room, player, reason }),
  });
  verb("unban", {
    summary: "Let a player come into a room again.",
    body: Unban,
    command: (room, { player }) => ({ do: "room.operator-unban", room, player }),
  });
  verb("hand-over", {
    summary: "Make another member the host of a room.",
    body: HandOver,
    command: (room, { to }) => ({ do: "room.operator-hand-over", room, to }),
  });
  verb("result", {
    summary: "Set the result of a room's run, once, where its kind leaves that to the operator.",
    body: SetResult,
    command: (room, { standings, note }) => ({ do: "room.operator-set-result", room, scores: standings, note }),
  });
  verb("abort-travel", {
    summary: "Give the travel of a room up: everybody is where they were, ready as they were.",
    body: AbortTravel,
    command: (room, { reason }) => ({ do: "travel.operator-abort", room, reason }),
  });
  verb("backfill", {
    summary: "Have the queue of a playing room look for players in the place of those who left, or stop that.",
    body: BackfillRoom,
    command: (room, { wanted }) => ({ do: "queue.operator-backfill", room, wanted }),
  });
  sayRoute(api, parts);
}

/** Commands that are answered with the revision of the room after them. */
type Revising = Extract<
  Command,
  { do: `room.operator-${string}` | "room.dissolve" | "travel.operator-abort" | "queue.operator-backfill" }
>;

interface Verb<B extends z.ZodType> {
  readonly summary: string;
  readonly body: B;
  readonly command: (room: string, body: z.output<B>) => Revising;
}

/** Adds a route that finds the room by id or code and has a command decided for it. */
const verbMaker =
  (api: Api, { runtime }: ApiParts) =>
  <B extends z.ZodType>(name: string, { summary, body, command }: Verb<B>): void => {
    const schema = { tags, security, summary, params: RoomParams, body, response: { 200: Revised } };
    api.post(`/v1/rooms/:room/${name}`, { schema }, async (request, reply) => {
      const { room: idOrCode } = request.params as z.output<typeof RoomParams>;
      const id = await runtime.query((harbor) => findRoom(harbor, idOrCode)?.id);
      if (id === undefined) return sendProblem(reply, unknownRoom(idOrCode));
      const settled = await runtime.ask(command(id, request.body as z.output<B>));
      return "refused" in settled ? sendProblem(reply, settled.refused) : reply.send(settled.reply);
    });
  };

function sayRoute(api: Api, { runtime, notice }: ApiParts): void {
  const schema = {
    tags,
    security,
    params: RoomParams,
    body: Say,
    response: { 200: Said },
    summary: "Say something to the members of a room.",
  };
  api.post("/v1/rooms/:room/say", { schema }, async ({ params, body }, reply) => {
    const members = await runtime.query((harbor) => [...(findRoom(harbor, params.room)?.members.keys() ?? [])]);
    if (members.length === 0) return sendProblem(reply, unknownRoom(params.room));
    return { delivered: notice("room", members, body.text) };
  });
}
