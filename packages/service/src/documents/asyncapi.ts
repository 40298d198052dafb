import {
  Beat,
  Closing,
  DirectoryNews,
  Echo,
  Hello,
  News,
  Notice,
  PLAY_PATH,
  type PlayerAsk,
  Problem,
  playerRequests,
  Refused,
  Relayed,
  Talk,
  Welcome,
  WIRE_SUBPROTOCOL,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import { SERVICE_VERSION } from "../version.ts";

type Json = Record<string, unknown>;

const ref = (path: string) => ({ $ref: `#/${path}` });
const nameOf = (ask: string, suffix: string) =>
  `${ask.replace(/(^|[.-])(\w)/g, (_whole, _sep, letter: string) => letter.toUpperCase())}${suffix}`;

/** AsyncAPI 3.0 of the players' wire, from the very schemas that check frames. */
export function asyncApiDocument(): object {
  const messages: Record<string, { title: string; summary: string; schema: z.ZodType; from: "player" | "service" }> = {
    Hello: { title: "hello", summary: "First frame: who one is.", schema: Hello, from: "player" },
    Welcome: {
      title: "welcome",
      summary: "Answer to the hello: who one is here, and the complete picture.",
      schema: Welcome,
      from: "service",
    },
    News: {
      title: "news",
      summary: "Something happened; with the merge patch for the picture.",
      schema: News,
      from: "service",
    },
    Beat: {
      title: "beat",
      summary: "The client is still there, and wants its clock back.",
      schema: Beat,
      from: "player",
    },
    Echo: { title: "echo", summary: "The echo of a beat.", schema: Echo, from: "service" },
    Relayed: { title: "relayed", summary: "A message that a member has passed on.", schema: Relayed, from: "service" },
    Directory: {
      title: "directory",
      summary: "What changed in the directory that is followed.",
      schema: DirectoryNews,
      from: "service",
    },
    Talk: { title: "talk", summary: "What a player has said in the lobby.", schema: Talk, from: "service" },
    Notice: { title: "notice", summary: "What an operator has to say.", schema: Notice, from: "service" },
    Refused: { title: "refused", summary: "A slip that belongs to no request.", schema: Refused, from: "service" },
    Closing: {
      title: "closing",
      summary: "Last frame before the service closes the socket, with the reason.",
      schema: Closing,
      from: "service",
    },
    Problem: {
      title: "reply with a problem",
      summary: "The request was refused.",
      schema: z.object({ frame: z.literal("reply"), id: z.int(), problem: Problem }),
      from: "service",
    },
  };
  for (const ask of Object.keys(playerRequests) as PlayerAsk[]) {
    const { summary, args, reply } = playerRequests[ask];
    const id = z.int().min(0).max(0xffff_ffff);
    const shape = { frame: z.literal("request"), id, ask: z.literal(ask) };
    // Where every argument may be left out, so may all of them.
    const isOptional = (args as z.ZodType).safeParse({}).success;
    const request = z.strictObject({
      ...shape,
      args: isOptional ? (args as z.ZodType).optional() : (args as z.ZodType),
    });
    messages[nameOf(ask, "Request")] = { title: `${ask} request`, summary, schema: request, from: "player" };
    const answer = z.object({ frame: z.literal("reply"), id, reply: reply as z.ZodType });
    messages[nameOf(ask, "Reply")] = {
      title: `${ask} reply`,
      summary: `Reply to ${ask}.`,
      schema: answer,
      from: "service",
    };
  }
  const names = Object.keys(messages);
  const schemas: Json = {};
  const described = Object.fromEntries(
    names.map((name) => {
      const { title, summary, schema, from } = messages[name] as (typeof messages)[string];
      return [
        name,
        { name, title, summary, contentType: "application/json", payload: payloadOf(schema, from, schemas) },
      ];
    }),
  );
  const sentBy = (from: "player" | "service") =>
    names.filter((name) => messages[name]?.from === from).map((name) => ref(`channels/play/messages/${name}`));
  return {
    asyncapi: "3.0.0",
    info: {
      title: "Yellow Harbor, the players' wire",
      version: SERVICE_VERSION,
      license: { name: "MIT" },
      description: `Wire version ${WIRE_VERSION}: JSON text frames over a WebSocket with the subprotocol ${WIRE_SUBPROTOCOL}.`,
    },
    servers: { local: { host: "127.0.0.1:7420", protocol: "ws" } },
    channels: {
      play: {
        address: PLAY_PATH,
        title: "One player's connection",
        messages: Object.fromEntries(names.map((name) => [name, ref(`components/messages/${name}`)])),
      },
    },
    operations: {
      fromPlayer: { action: "receive", channel: ref("channels/play"), messages: sentBy("player") },
      fromService: { action: "send", channel: ref("channels/play"), messages: sentBy("service") },
    },
    components: { messages: described, schemas },
  };
}

/** JSON Schema of a message; what has a name of its own goes into `schemas`, once. */
function payloadOf(schema: z.ZodType, from: "player" | "service", schemas: Json): Json {
  const {
    $defs = {},
    $schema: _,
    ...payload
  } = z.toJSONSchema(schema, {
    io: from === "player" ? "input" : "output",
    target: "draft-7",
    reused: "inline",
    unrepresentable: "any",
  }) as Json & { $defs?: Json; definitions?: Json };
  const { definitions = {}, ...bare } = payload as Json & { definitions?: Json };
  const all = JSON.parse(
    JSON.stringify({ bare, defs: { ...$defs, ...definitions } })
      .replaceAll("#/definitions/", "#/components/schemas/")
      .replaceAll("#/$defs/", "#/components/schemas/"),
  ) as { bare: Json; defs: Json };
  for (const [name, definition] of Object.entries(all.defs)) {
    const { id: _id, $id: _dollarId, ...rest } = definition as Json;
    schemas[name] = rest;
  }
  const { id: _id, ...result } = all.bare;
  return result;
}
