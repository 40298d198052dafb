import { createHash, timingSafeEqual } from "node:crypto";
import { isIP } from "node:net";
import { type Problem, problem } from "@yellow-harbor/protocol";
import type { FastifyRequest } from "fastify";

export interface OperatorAccess {
  /** Whether operators on this computer need no token. */
  readonly loopbackIsEnough: boolean;
  readonly token: string;
}

/** Why an operator's request is not let in, or undefined when it is. */
export function operatorRefusal(
  request: FastifyRequest,
  { loopbackIsEnough, token }: OperatorAccess,
): Problem | undefined {
  const shown = bearerOf(request);
  if (shown !== undefined && isSame(shown, token)) return undefined;
  if (loopbackIsEnough && isLoopback(request.socket.remoteAddress ?? "")) {
    // A page of another site can make a browser ask for a name of its own that leads to this computer, so the name counts too.
    if (!isLoopbackHost(request.headers.host)) {
      const detail = `The Host header names ${request.headers.host ?? "nothing"}; without a token operators reach the service as localhost or 127.0.0.1.`;
      return problem("host-not-allowed", detail);
    }
    // And a page of another site may ask for the right name: browsers say so.
    const site = request.headers["sec-fetch-site"];
    if (site === undefined || site === "same-origin" || site === "none") return undefined;
  }
  const detail =
    "Send the operator token as Authorization: Bearer TOKEN; `yh token` prints it on the service's computer.";
  return problem("operator-token-needed", detail);
}

export function bearerOf(request: FastifyRequest): string | undefined {
  const header = request.headers.authorization;
  return header?.toLowerCase().startsWith("bearer ") ? header.slice(7).trim() : undefined;
}

export function isLoopback(address: string): boolean {
  return (
    address === "::1" || address.startsWith("127.") || address.startsWith("::ffff:127.") || address === "localhost"
  );
}

function isLoopbackHost(host: string | undefined): boolean {
  const name = (host ?? "").replace(/:\d+$/, "").replace(/^\[|\]$/g, "");
  return isIP(name) === 0 ? name === "localhost" : isLoopback(name);
}

/** Compares in constant time whatever the lengths. */
function isSame(shown: string, token: string): boolean {
  const digest = (text: string) => createHash("sha256").update(text).digest();
  return timingSafeEqual(digest(shown), digest(token));
}
