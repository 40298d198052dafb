import { createHash, timingSafeEqual } from "node:crypto";
import { mayDo, type OperatorRole, type Problem, problem } from "@yellow-harbor/protocol";
import { isLoopback } from "@yellow-harbor/reach";
import type { FastifyRequest } from "fastify";
import type { OperatorKeys } from "../keys/operator-keys.ts";

export interface OperatorAccess {
  /** Whether operators on this computer need no key. */
  readonly loopbackIsEnough: boolean;
  /** Token of the data folder: it may do everything. */
  readonly token: string;
  readonly keys: OperatorKeys;
}

/** Why an operator's request is not let in, or undefined when it is. `from` is the caller's own address. */
export function operatorRefusal(
  request: FastifyRequest,
  needed: OperatorRole,
  from: string,
  { loopbackIsEnough, token, keys }: OperatorAccess,
): Problem | undefined {
  const shown = bearerOf(request);
  if (shown !== undefined && isSame(shown, token)) return undefined;
  const key = shown === undefined ? undefined : keys.check(shown, from);
  if (key !== undefined) {
    if (mayDo(key.role, needed)) return undefined;
    const detail = `Key ${key.id} (${key.name}) has the role ${key.role}; this needs ${needed}. An administrator creates such a key with \`yh key create\`.`;
    return problem("role-needed", detail);
  }
  // Whoever shows a key is judged by it, wherever it comes from.
  if (
    shown === undefined &&
    loopbackIsEnough &&
    isLoopback(request.socket.remoteAddress ?? "") &&
    !isForwarded(request)
  ) {
    // A page of another site can make a browser ask for a name of its own that leads to this computer, so the name counts too.
    if (!isLoopbackHost(request.headers.host)) {
      const detail = `The Host header names ${request.headers.host ?? "nothing"}; without a token operators reach the service as localhost or 127.0.0.1.`;
      return problem("host-not-allowed", detail);
    }
    // And a page of another site may ask for the right name: browsers say so, older ones by the origin alone.
    const { "sec-fetch-site": site, origin, host } = request.headers;
    const isOwnPage = origin === undefined || origin === `http://${host}` || origin === `https://${host}`;
    if (isOwnPage && (site === undefined || site === "same-origin" || site === "none")) return undefined;
  }
  const remedy =
    "give one with --token, YH_TOKEN, or Authorization: Bearer. `yh key create` makes one; on the service's computer `yh token` prints the first.";
  const what = shown === undefined ? "This needs a key or the operator token" : "The key is not valid here";
  return problem("operator-token-needed", `${what}: ${remedy}`);
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
