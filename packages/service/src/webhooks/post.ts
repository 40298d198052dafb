import { lookup as lookUp } from "node:dns";
import { Agent as HttpAgent, request as httpRequest, type IncomingMessage } from "node:http";
import { Agent as HttpsAgent, request as httpsRequest } from "node:https";
import type { LookupFunction } from "node:net";
import { addressKind } from "@yellow-harbor/reach";

/** What came back of one request. */
export type Posted =
  | { readonly status: number; readonly text: string; readonly retryAfterMs: number | undefined }
  /** Nothing came back: why, in words. */
  | { readonly failed: string };

interface PostOptions {
  readonly url: URL;
  readonly body: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly timeoutMs: number;
  readonly mayBePrivate: boolean;
  readonly signal: AbortSignal;
  /** So much of an answer is read. */
  readonly answerMax?: number;
}

/** So much of an answer is read; what comes after is not waited for. */
const ANSWER_MAX = 1_024;
/** Longest pause that a receiver may ask for. */
const RETRY_AFTER_MAX_MS = 3_600_000;

const agents = {
  "http:": new HttpAgent({ keepAlive: true, maxSockets: 64, maxFreeSockets: 8 }),
  "https:": new HttpsAgent({ keepAlive: true, maxSockets: 64, maxFreeSockets: 8 }),
};

/** The same to a receiver as the configuration has it. */
export const postTo = (
  { url, timeoutMs, privateAddresses }: { url: string; timeoutMs: number; privateAddresses: boolean },
  rest: Omit<PostOptions, "url" | "timeoutMs" | "mayBePrivate">,
): Promise<Posted> => post({ ...rest, url: new URL(url), timeoutMs, mayBePrivate: privateAddresses });

/**
 * Posts to an address that somebody has configured. Redirects are not followed, little of the answer is read, and addresses
 * within the host's own network are refused, also those that a name leads to.
 */
function post({
  url,
  body,
  headers,
  timeoutMs,
  mayBePrivate,
  signal,
  answerMax = ANSWER_MAX,
}: PostOptions): Promise<Posted> {
  const host = url.hostname.replace(/^\[|\]$/g, "");
  // An address is not looked up, so it is judged here.
  if (!mayBePrivate && addressKind(host) !== undefined && addressKind(host) !== "public") {
    return Promise.resolve({ failed: refusal(host) });
  }
  return new Promise((resolve) => {
    const asked = (url.protocol === "https:" ? httpsRequest : httpRequest)(url, {
      method: "POST",
      agent: agents[url.protocol === "https:" ? "https:" : "http:"],
      headers: { ...headers, "content-length": Buffer.byteLength(body) },
      signal: AbortSignal.any([signal, AbortSignal.timeout(timeoutMs)]),
      ...(!mayBePrivate && { lookup: publicOnly }),
    });
    asked.on("error", (error: Error & { code?: string }) => {
      const isLate = error.name === "TimeoutError" || (error.cause as Error | undefined)?.name === "TimeoutError";
      const words = isLate
        ? `no answer came within ${timeoutMs / 1_000} s`
        : ((error.message || error.code) ?? "failed");
      resolve({ failed: signal.aborted ? "the service is stopping" : words });
    });
    asked.on("response", (response) => void take(response, answerMax).then(resolve));
    asked.end(body);
  });
}

async function take(response: IncomingMessage, answerMax: number): Promise<Posted> {
  let text = "";
  try {
    for await (const chunk of response) {
      text += String(chunk);
      if (text.length >= answerMax) break;
    }
  } catch {
    // What was answered is known by the status.
  }
  response.destroy();
  const status = response.statusCode ?? 0;
  return { status, text: text.slice(0, answerMax), retryAfterMs: retryAfter(response.headers["retry-after"]) };
}

/** Seconds or a date (RFC 9110, section 10.2.3). */
function retryAfter(header: string | undefined): number | undefined {
  if (header === undefined) return undefined;
  const ms = /^\d+$/.test(header) ? Number(header) * 1_000 : Date.parse(header) - Date.now();
  return Number.isFinite(ms) && ms > 0 ? Math.min(ms, RETRY_AFTER_MAX_MS) : undefined;
}

const refusal = (address: string) =>
  `${address} is an address within this host's own network; set privateAddresses if that is meant`;

/** Looks names up, and gives out none that leads into the host's own network. */
const publicOnly: LookupFunction = (hostname, options, done) => {
  lookUp(hostname, { ...options, all: true }, (error, addresses) => {
    if (error) return done(error, "", 0);
    const inside = addresses.find(({ address }) => addressKind(address) !== "public");
    const [first] = addresses;
    if (inside || first === undefined) {
      return done(new Error(refusal(inside?.address ?? hostname)), "", 0);
    }
    if (options.all) (done as unknown as (error: null, all: typeof addresses) => void)(null, addresses);
    else done(null, first.address, first.family);
  });
};
