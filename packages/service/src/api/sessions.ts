import {
  type Acknowledged,
  mayDo,
  type OperatorRoutes,
  problem,
  SESSION_COOKIE,
  type SessionView,
  type WhoAmI,
} from "@yellow-harbor/protocol";
import type { FastifyReply, FastifyRequest } from "fastify";
import { callerOf } from "../front-door/caller.ts";
import type { OperatorSessionRow } from "../journal/operator-store.ts";
import { type Admission, byKey, FIRST_KEY, isOwnPage } from "./access.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { noteCaller, type OperatorCaller, operatorOf } from "./who.ts";

type SessionRoutes = Pick<OperatorRoutes, "logIn" | "logOut" | "whoAmI" | "sessions" | "endSession" | "logInLink">;

/** Browsers that are logged in to the console. */
export function sessionHandlers({ access, trusts }: ApiParts): Handlers<SessionRoutes> {
  const { sessions, keys } = access;
  const holderOf = (key: string | null) => (key === null ? FIRST_KEY : keys.holder(key));

  /** What is answered when there is nothing to say. */
  const done: Acknowledged = {};
  const caller = (request: FastifyRequest): OperatorCaller => {
    const found = operatorOf(request);
    if (found === undefined) throw new Error("a route without a role asks who is there");
    return found;
  };
  const whoIs = ({ name, role, by }: OperatorCaller, session?: OperatorSessionRow): WhoAmI => ({
    name,
    role,
    by,
    ...(session && { session: session.id, csrf: session.csrf, endsAtMs: sessions.endsAtMs(session) }),
  });
  const viewOf = (row: OperatorSessionRow, own: string | undefined): SessionView[] => {
    const holder = holderOf(row.key);
    if (holder === undefined) return [];
    const { id, fromAddress: from, agent, createdAtMs, lastUsedAtMs } = row;
    const { name, role } = holder;
    const when = { createdAtMs, lastUsedAtMs, endsAtMs: sessions.endsAtMs(row) };
    return [{ id, name, role, from, agent, ...when, isOwn: id === own }];
  };
  /** Sessions that a caller may see and end. */
  const within = ({ key, role }: OperatorCaller) =>
    sessions.list().filter((row) => mayDo(role, "administer") || row.key === key);
  const setCookie = (request: FastifyRequest, reply: FastifyReply, value: string) =>
    reply.setCookie(SESSION_COOKIE, value, {
      path: "/",
      httpOnly: true,
      sameSite: "strict",
      secure: cameByTls(request, (address) => trusts(address)),
    });

  return {
    logIn: async ({ body: { key, code }, request, reply }) => {
      if (!isOwnPage(request, access.origins)) {
        const detail = `The log-in comes from ${request.headers.origin ?? "another site"}; list that in operators.origins when it is an address of this console.`;
        return { refused: problem("origin-not-allowed", detail) };
      }
      const from = callerOf(request.raw, trusts);
      const found = key === undefined ? byCode(code ?? "") : byKey(key, from, access);
      if ("refused" in found) return found;
      const { cookie, session } = await sessions.begin(found.caller.key, from, request.headers["user-agent"] ?? "");
      noteCaller(request, found.caller);
      setCookie(request, reply, cookie);
      return whoIs({ ...found.caller, by: "session" }, session);
    },

    logOut: async ({ request, reply }) => {
      const { session } = caller(request);
      if (session !== undefined) await sessions.end(session);
      reply.clearCookie(SESSION_COOKIE, { path: "/" });
      return done;
    },

    whoAmI: ({ request }) => {
      const who = caller(request);
      const own = who.session === undefined ? undefined : sessions.list().find(({ id }) => id === who.session);
      return whoIs(who, own);
    },

    sessions: ({ request }) => {
      const who = caller(request);
      return { sessions: within(who).flatMap((row) => viewOf(row, who.session)) };
    },

    endSession: async ({ params: { session }, request }) => {
      if (!within(caller(request)).some(({ id }) => id === session)) {
        const detail = `There is no session ${session}, it has ended, or it is that of another key.`;
        return { refused: problem("session-unknown", detail) };
      }
      await sessions.end(session);
      return done;
    },

    logInLink: ({ request }) => sessions.link(caller(request).key),
  };

  function byCode(code: string): Admission {
    const redeemed = sessions.redeem(code);
    const holder = redeemed && holderOf(redeemed.key);
    if (redeemed === undefined || holder === undefined) {
      const detail =
        "The code of the link was used already, or is older than ten minutes; `yh console` makes a new one.";
      return { refused: problem("log-in-code-invalid", detail) };
    }
    const { name, role } = holder;
    return { caller: { by: redeemed.key === null ? "first-key" : "key", name, role, key: redeemed.key } };
  }
}

/** Whether the browser's own connection is a secure one: to the service, or to a proxy that is believed. */
function cameByTls({ socket, headers }: FastifyRequest, trusts: (address: string) => boolean): boolean {
  if ("encrypted" in socket && socket.encrypted === true) return true;
  return trusts(socket.remoteAddress ?? "") && headers["x-forwarded-proto"] === "https";
}
