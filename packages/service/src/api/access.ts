import { createHash, timingSafeEqual } from "node:crypto";
import { CSRF_HEADER, mayDo, type OperatorRole, type Problem, problem, SESSION_COOKIE } from "@yellow-harbor/protocol";
import { isLoopback } from "@yellow-harbor/reach";
import type { FastifyRequest } from "fastify";
import type { OperatorKeys } from "../keys/operator-keys.ts";
import type { OperatorSessions } from "../keys/operator-sessions.ts";
import type { WrongKeys } from "../keys/wrong-keys.ts";
import type { OperatorCaller } from "./who.ts";

export interface OperatorAccess {
  /** Whether operators on this computer need no key. */
  readonly loopbackIsEnough: boolean;
  /** Key of the data folder: it may do everything. */
  readonly token: string;
  readonly keys: OperatorKeys;
  readonly sessions: OperatorSessions;
  readonly wrongKeys: WrongKeys;
  /** Addresses of pages that may use a session, besides the service's own. */
  readonly origins: readonly string[];
}

export const FIRST_KEY: OperatorCaller = { by: "first-key", name: "first key", role: "administer", key: null };
const OPEN: OperatorCaller = { by: "open", name: "anybody here", role: "administer", key: null };

export type Admission = { readonly caller: OperatorCaller } | { readonly refused: Problem };

/** Whoever asks, when its role is enough, or why not. `from` is the caller's own address. */
export function admit(request: FastifyRequest, needed: OperatorRole, from: string, access: OperatorAccess): Admission {
  const found = identify(request, from, access);
  if ("refused" in found || mayDo(found.caller.role, needed)) return found;
  const { key, name, role } = found.caller;
  const detail = `Key ${key} (${name}) has the role ${role}; this needs ${needed}. An administrator creates such a key with \`yh key create\`.`;
  return { refused: problem("role-needed", detail) };
}

/** Whoever shows a key or a session is judged by it, wherever it comes from. */
function identify(request: FastifyRequest, from: string, access: OperatorAccess): Admission {
  const shown = bearerOf(request);
  if (shown !== undefined) return byKey(shown, from, access);
  const cookie = request.cookies[SESSION_COOKIE];
  if (cookie !== undefined) return bySession(request, cookie, access);
  if (access.loopbackIsEnough && isLoopback(request.socket.remoteAddress ?? "") && !isForwarded(request)) {
    // A page of another site can make a browser ask for a name of its own that leads to this computer, so the name counts too.
    if (!isLoopbackHost(request.headers.host)) {
      const detail = `The Host header names ${request.headers.host ?? "nothing"}; without a key operators reach the service as localhost or 127.0.0.1.`;
      return { refused: problem("host-not-allowed", detail) };
    }
    if (isOwnPage(request, [])) return { caller: OPEN };
  }
  return { refused: keyNeeded("This needs a key") };
}

function keyNeeded(what: string): Problem {
  const remedy =
    "give one with --token, YH_TOKEN, or Authorization: Bearer. `yh key create` makes one; on the service's computer `yh token` prints the first.";
  return problem("operator-token-needed", `${what}: ${remedy}`);
}

/** Who has a key. Wrong ones are counted, and slowed down when there are too many from one address. */
export function byKey(shown: string, from: string, { token, keys, wrongKeys }: OperatorAccess): Admission {
  if (isSame(shown, token)) return { caller: FIRST_KEY };
  const holder = keys.check(shown, from);
  if (holder !== undefined) {
    const { id, name, role } = holder;
    return { caller: { by: "key", name, role, key: id } };
  }
  if (wrongKeys.isTooMany(from)) {
    const detail = "Too many wrong keys came from this address; wait ten seconds before each further try.";
    return { refused: problem("keys-too-fast", detail) };
  }
  return { refused: keyNeeded("The key is not valid here") };
}

function bySession(request: FastifyRequest, cookie: string, { sessions, keys, origins }: OperatorAccess): Admission {
  const session = sessions.check(cookie);
  const holder = session && (session.key === null ? FIRST_KEY : keys.holder(session.key));
  if (session === undefined || holder === undefined) {
    return {
      refused: problem("session-ended", "The session has ended, or its key is worth nothing any more; log in again."),
    };
  }
  if (request.method !== "GET" && request.method !== "HEAD") {
    if (!isOwnPage(request, origins)) {
      const detail = `The request comes from ${request.headers.origin ?? "another site"}; list that in operators.origins when it is an address of this console.`;
      return { refused: problem("origin-not-allowed", detail) };
    }
    if (!isSame(String(request.headers[CSRF_HEADER] ?? ""), session.csrf)) {
      const detail = `The header ${CSRF_HEADER} does not repeat the session's token; load the page again.`;
      return { refused: problem("origin-not-allowed", detail) };
    }
  }
  const { name, role } = holder;
  return { caller: { by: "session", name, role, key: session.key, session: session.id } };
}

/** Whether somebody who was let in would be let in again: what stays open is ended when not. */
export function isStillIn({ by, key, session }: OperatorCaller, { keys, sessions }: OperatorAccess): boolean {
  if (by === "session" && (session === undefined || !sessions.lasts(session))) return false;
  return key === null || keys.holder(key) !== undefined;
}

/** Whether a browser says that the request comes from a page of the service; older ones say so by the origin alone. */
export function isOwnPage({ headers }: FastifyRequest, origins: readonly string[]): boolean {
  const { "sec-fetch-site": site, origin, host } = headers;
  const isOwnOrigin =
    origin === undefined || origin === `http://${host}` || origin === `https://${host}` || origins.includes(origin);
  if (!isOwnOrigin) return false;
  return site === undefined || site === "same-origin" || site === "none" || origins.includes(origin ?? "");
}

/** What came through a proxy comes from anywhere, whichever address the proxy has. */
const isForwarded = ({ headers }: FastifyRequest) =>
  ["x-forwarded-for", "x-real-ip", "forwarded", "via"].some((name) => headers[name] !== undefined);

export function bearerOf(request: FastifyRequest): string | undefined {
  const header = request.headers.authorization;
  return header?.toLowerCase().startsWith("bearer ") ? header.slice(7).trim() : undefined;
}

function isLoopbackHost(host: string | undefined): boolean {
  return isLoopback((host ?? "").replace(/:\d+$/, ""));
}

/** Compares in constant time whatever the lengths. */
function isSame(shown: string, token: string): boolean {
  const digest = (text: string) => createHash("sha256").update(text).digest();
  return timingSafeEqual(digest(shown), digest(token));
}
