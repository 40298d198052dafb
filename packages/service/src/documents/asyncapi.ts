import {
  PLAY_PATH,
  type PlayerAsk,
  playerAsks,
  problemTable,
  RELAY_PATH,
  RELAY_SUBPROTOCOL,
  WIRE_SUBPROTOCOL,
  WIRE_VERSION,
} from "@yellow-harbor/protocol";
import { SERVICE_VERSION } from "../version.ts";
import { frames, type Message, PROBLEM_REPLY, replyTo, requestOf } from "./play-messages.ts";
import { type Json, schemaOf } from "./schemas.ts";

const ref = (path: string) => ({ $ref: `#/${path}` });
const CHANNEL = ref("channels/play");
const inPlay = (name: string) => ref(`channels/play/messages/${name}`);

const nameOf = (ask: string, suffix: string) =>
  `${ask.replace(/(^|[.-])(\w)/g, (_whole, _sep, letter: string) => letter.toUpperCase())}${suffix}`;

/** Replies come in any order; the number that the client gave its request says which one is answered. */
const CORRELATION = { location: "$message.payload#/id", description: "The number that the client gave its request." };

/** AsyncAPI 3.0 of what players speak, from the very schemas that check frames. */
export function asyncApiDocument(): object {
  const schemas: Json = {};
  const asked = playerAsks.flatMap((ask): [string, Message][] => [
    [nameOf(ask, "Request"), requestOf(ask)],
    [nameOf(ask, "Reply"), replyTo(ask)],
  ]);
  const all: [string, Message][] = [...Object.entries(frames), ["Problem", PROBLEM_REPLY], ...asked];
  return {
    asyncapi: "3.0.0",
    info: {
      title: "Yellow Harbor, the players' wire",
      version: SERVICE_VERSION,
      license: { name: "MIT" },
      description: `Wire version ${WIRE_VERSION}: JSON text frames over a WebSocket with the subprotocol ${WIRE_SUBPROTOCOL}.`,
    },
    defaultContentType: "application/json",
    servers: { local: { host: "127.0.0.1:7420", protocol: "ws" } },
    channels: {
      play: {
        address: PLAY_PATH,
        title: "One player's connection",
        description: `Opened with the subprotocol ${WIRE_SUBPROTOCOL}. The first frame is a hello, and the first answer a welcome.`,
        messages: Object.fromEntries(all.map(([name]) => [name, ref(`components/messages/${name}`)])),
        "x-close-codes": closeCodes(),
      },
      relay: relayChannel(),
    },
    operations: {
      ...Object.fromEntries(playerAsks.map((ask) => [ask, operationOf(ask)])),
      hello: {
        action: "receive",
        channel: CHANNEL,
        messages: [inPlay("Hello")],
        reply: { channel: CHANNEL, messages: [inPlay("Welcome"), inPlay("Closing")] },
      },
      heartbeat: {
        action: "receive",
        channel: CHANNEL,
        messages: [inPlay("Heartbeat")],
        reply: { channel: CHANNEL, messages: [inPlay("Echo")] },
      },
      tell: { action: "send", channel: CHANNEL, summary: "What the service says by itself.", messages: told() },
      toInstance: {
        action: "receive",
        channel: ref("channels/relay"),
        messages: [ref("channels/relay/messages/Bytes")],
      },
      fromInstance: {
        action: "send",
        channel: ref("channels/relay"),
        messages: [ref("channels/relay/messages/Bytes")],
      },
    },
    components: {
      messages: {
        ...Object.fromEntries(all.map(([name, message]) => [name, messageOf(name, message, schemas)])),
        Bytes: BYTES,
      },
      schemas,
    },
  };
}

function messageOf(name: string, { title, summary, schema, example, isAnswer }: Message, schemas: Json): Json {
  return {
    name,
    title,
    summary,
    payload: schemaOf(schema, schemas),
    ...(isAnswer && { correlationId: CORRELATION }),
    ...(example && { examples: [{ payload: example }] }),
  };
}

const operationOf = (ask: PlayerAsk): Json => ({
  action: "receive",
  channel: CHANNEL,
  messages: [inPlay(nameOf(ask, "Request"))],
  reply: { channel: CHANNEL, messages: [inPlay(nameOf(ask, "Reply")), inPlay("Problem")] },
});

const told = () =>
  Object.entries(frames)
    .filter(([, { from }]) => from === "service")
    .map(([name]) => inPlay(name));

/** Codes that the service closes with, and the problems that each stands for; before it a frame `closing` says which. */
function closeCodes(): Json[] {
  const byCode = new Map<number, string[]>([[1000, ["the player has left, and was answered"]]]);
  byCode.set(1009, ["a frame of more than 262,144 bytes, which is not read"]);
  for (const [code, { close }] of Object.entries(problemTable)) {
    if (close !== null) byCode.set(close, [...(byCode.get(close) ?? []), code]);
  }
  return [...byCode].sort(([a], [b]) => a - b).map(([code, meanings]) => ({ code, meanings }));
}

const BYTES = {
  name: "Bytes",
  title: "bytes",
  summary: "One message of the game's own, as it is; over TCP the bytes of a stream.",
  contentType: "application/octet-stream",
  payload: { type: "string", format: "binary" },
};

/** A player's way to an instance through the service, where it cannot be reached otherwise. */
const relayChannel = (): Json => ({
  address: `${RELAY_PATH}{instance}`,
  title: "Through the service to an instance",
  description: `Opened with two subprotocols: ${RELAY_SUBPROTOCOL}, and the boarding pass, whose relay field is this address. Text or binary messages are passed on as they are.`,
  parameters: { instance: { description: "Id of the instance, as the boarding pass names it." } },
  messages: { Bytes: ref("components/messages/Bytes") },
  "x-close-codes": [
    { code: 1000, meanings: ["the instance has closed the connection"] },
    { code: 1001, meanings: ["nothing was passed on for long, or the service is stopping"] },
    { code: 1009, meanings: ["a message of more than 262,144 bytes"] },
    { code: 1013, meanings: ["the instance cannot be reached, or not any more; try again"] },
  ],
});
