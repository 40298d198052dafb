import { type IncomingMessage, request as plain } from "node:http";
import { request as secure } from "node:https";
import type { HttpAnswer, HttpRequest, SendHttp } from "@yellow-harbor/client";
import { VERSION_HEADER } from "@yellow-harbor/protocol";
import { io } from "./io.ts";
import { safeLine } from "./output/screen.ts";
import { isSameMinor, ownVersion } from "./own-version.ts";

const REDIRECTS_MAX = 3;

/** By Node's own HTTP, which is there at once: loading fetch takes longer than most commands do. */
export const sendHttp: SendHttp = async (url, request) => {
  let [at, given] = [url, request];
  for (let redirects = 0; ; redirects++) {
    const answer = await send(at, given);
    const { location } = answer.headers;
    const isRedirect = [301, 302, 307, 308].includes(answer.statusCode ?? 0) && location !== undefined;
    if (!isRedirect || redirects === REDIRECTS_MAX) return answerOf(answer);
    answer.resume();
    const next = new URL(location, at);
    // A key is for the one who was asked.
    if (next.hostname !== new URL(at).hostname) given = { ...given, headers: withoutKey(given.headers) };
    at = next.href;
  }
};

function withoutKey({ authorization: _, ...others }: HttpRequest["headers"]): HttpRequest["headers"] {
  return others;
}

function send(url: string, { method, headers, body, signal }: HttpRequest): Promise<IncomingMessage> {
  const ask = new URL(url).protocol === "https:" ? secure : plain;
  return new Promise((resolve, reject) => {
    const asked = ask(url, { method, headers, agent: false, ...(signal && { signal }) }, (answer) => {
      noteVersion(answer.headers[VERSION_HEADER]);
      resolve(answer);
    });
    asked.on("error", reject);
    asked.end(body);
  });
}

const told = new Set<string>();

/** Says once of each version that it is another than ours, on standard error: what is asked may be answered otherwise. */
function noteVersion(version: string | string[] | undefined): void {
  const own = ownVersion();
  if (typeof version !== "string" || own === undefined || isSameMinor(own, version) || told.has(version)) return;
  told.add(version);
  io().err.write(
    `The service is version ${safeLine(version)} and this yh is ${own}; take the yh of the same version.\n`,
  );
}

const answerOf = (message: IncomingMessage): HttpAnswer => ({
  status: message.statusCode ?? 0,
  json: async () => JSON.parse(await textOf(message)),
  bytes: () => message,
});

async function textOf(message: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of message) chunks.push(chunk);
  return Buffer.concat(chunks).toString("utf8");
}
