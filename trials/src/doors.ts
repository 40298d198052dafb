import { connect, type Socket } from "node:net";
import type { Random } from "@yellow-harbor/core";
import { frames } from "./corpus.ts";
import { happens, mutateText, oneOf } from "./mutate.ts";

const targets = [
  ...["/v1/play", "/v1/agent", "/v1/relay/i_000000000000", "/v1/relay/%", "/v1/relay/%ff", "//", "/", "*", "?", ""],
  ...[
    "http://",
    "http://x:99999999/",
    "http://x/v1/play",
    "https://[::1",
    "/v1/rooms/%zz",
    `/v1/rooms/${"a".repeat(400)}`,
  ],
  ...["/v1/play?x=%", "/v1/play#", "/v1/play/", "/V1/PLAY", "/v1/play\t", "/healthz"],
];
const methods = ["GET", "GET", "GET", "GET", "POST", "CONNECT", "OPTIONS", "BREW", "PRI", "get", ""];
const heads = [
  ...[
    "Host: x",
    "Host: x",
    "Host:",
    "Connection: Upgrade",
    "Connection: Upgrade",
    "Upgrade: websocket",
    "Upgrade: h2c",
  ],
  ...["Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==", "Sec-WebSocket-Key: x", "Sec-WebSocket-Version: 13"],
  ...["Sec-WebSocket-Version: 99", "Sec-WebSocket-Protocol: yellow-harbor.1", "Sec-WebSocket-Protocol: ,,,"],
  ...["Sec-WebSocket-Protocol: yellow-harbor-relay.1, a.b.c", "Sec-WebSocket-Extensions: permessage-deflate; x"],
  ...["Content-Length: 5", "Content-Length: -1", "Transfer-Encoding: chunked", "Expect: 100-continue", "Expect: tea"],
  ...["Authorization: Bearer nonsense", "X-Forwarded-For: 1.2.3.4, ,::", `X: ${"a".repeat(20_000)}`, "Origin: null"],
];

/** A whole upgrade for players, which most of what is sent after it needs to get anywhere. */
const GOOD = [
  ...["GET /v1/play HTTP/1.1", "Host: x", "Connection: Upgrade", "Upgrade: websocket"],
  ...["Sec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==", "Sec-WebSocket-Version: 13", "", ""],
].join("\r\n");

/** Bytes that somebody might send to a listening port: a request that may be one, an upgrade, frames, or nothing of the kind. */
function bytesFrom(chance: Random): Buffer {
  if (happens(chance, 0.15)) return Buffer.from(Array.from({ length: 1 + chance.below(300) }, () => chance.below(256)));
  if (happens(chance, 0.3))
    return Buffer.concat([Buffer.from(GOOD), ...Array.from({ length: 4 }, () => wireFrame(chance))]);
  const lines = Array.from({ length: chance.below(9) }, () => oneOf(chance, heads));
  const text = [`${oneOf(chance, methods)} ${oneOf(chance, targets)} HTTP/1.1`, ...lines, "", ""].join("\r\n");
  return Buffer.from(happens(chance, 0.3) ? mutateText(chance, text) : text, "latin1");
}

/** One frame of RFC 6455, section 5.2, right in its form or not quite. */
function wireFrame(chance: Random): Buffer {
  const body = Buffer.from(happens(chance, 0.5) ? JSON.stringify(oneOf(chance, frames)) : mutateText(chance, "ahoy"));
  const first = happens(chance, 0.7) ? 0x81 : chance.below(256);
  const isMasked = happens(chance, 0.9) ? 0x80 : 0;
  const length = happens(chance, 0.95) ? body.length : chance.below(126);
  const head =
    length < 126
      ? Buffer.from([first, isMasked | length])
      : Buffer.from([first, isMasked | 126, length >> 8, length & 255]);
  // A mask of zeros leaves the bytes as they are.
  return Buffer.concat([head, Buffer.alloc(isMasked ? 4 : 0), body]);
}

const endings = ["reset", "end", "half", "wait"] as const;
const WAIT_MS = 200;

/** What is wrong with an answer that came as HTTP: all but a good one is a problem, and none is a fault of the service. */
export function faultOfAnswer(said: string): string | undefined {
  if (said === "") return undefined;
  const [, status = ""] = /^HTTP\/1\.1 (\d{3}) /.exec(said) ?? [];
  if (status === "") return `something else than HTTP was said: ${JSON.stringify(said.slice(0, 60))}`;
  if (status >= "500" && status !== "501") return `a ${status} was said to raw bytes`;
  if (status >= "400" && !/application\/problem\+json/i.test(said)) return `a ${status} without a problem`;
  return undefined;
}

/** Knocks once: dials, sends some bytes, and goes in one of the ways there are. Resolves to what was said. */
export async function knock(port: number, chance: Random): Promise<string> {
  const socket = connect(port, "127.0.0.1");
  let said = "";
  socket.setEncoding("latin1").on("data", (chunk) => {
    if (said.length < 4_096) said += chunk;
  });
  socket.on("error", () => undefined);
  const closed = new Promise<void>((resolve) => socket.once("close", () => resolve()));
  await Promise.race([new Promise<void>((resolve) => socket.once("connect", () => resolve())), closed]);
  const bytes = bytesFrom(chance);
  const ending = oneOf(chance, endings);
  if (ending === "half") socket.write(bytes.subarray(0, chance.below(bytes.length + 1)));
  else socket.write(bytes);
  await leave(socket, ending, closed);
  return said;
}

async function leave(socket: Socket, ending: (typeof endings)[number], closed: Promise<void>): Promise<void> {
  if (ending === "wait") {
    let timer: NodeJS.Timeout | undefined;
    const enough = new Promise<void>((resolve) => {
      timer = setTimeout(resolve, WAIT_MS);
    });
    await Promise.race([closed, enough]);
    clearTimeout(timer);
  }
  if (ending === "end") socket.end();
  else socket.resetAndDestroy();
  await Promise.race([closed, new Promise((resolve) => setTimeout(resolve, WAIT_MS))]);
  socket.destroy();
}
