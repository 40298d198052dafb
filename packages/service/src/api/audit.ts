import { createHash } from "node:crypto";
import type { OperatorRoutes } from "@yellow-harbor/protocol";
import type { FastifyReply, FastifyRequest } from "fastify";
import { callerOf } from "../front-door/caller.ts";
import type { Api, ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { actorOf, operatorOf } from "./who.ts";

type AuditRoutes = Pick<OperatorRoutes, "audit" | "checkAudit">;

/** What operators did. */
export const auditHandlers = ({ operators }: ApiParts): Handlers<AuditRoutes> => ({
  audit: ({ query }) => operators.auditPage(query),
  checkAudit: () => operators.checkAudit(),
});

/** Codes of those who were not let in: they are counted elsewhere, and would fill the log. */
const NOT_LET_IN = new Set(["operator-token-needed", "keys-too-fast", "session-ended", "host-not-allowed"]);

/** Has what operators do written down before they are answered. `nameOf` is what a route is called. */
export function auditRequests(
  api: Api,
  { audit, trusts }: ApiParts,
  nameOf: (request: FastifyRequest) => string,
): void {
  api.addHook("onSend", async (request, reply, payload) => {
    const caller = operatorOf(request);
    if (request.method === "GET" || request.method === "HEAD" || caller === undefined) return payload;
    const result = resultOf(reply, payload);
    if (NOT_LET_IN.has(result)) return payload;
    await audit.add({
      actor: actorOf(caller),
      from: callerOf(request.raw, trusts),
      action: nameOf(request),
      target: nameOf(request) === "erasePerson" ? hashedTarget(request) : targetOf(request),
      reason: textIn(request.body, "reason"),
      result,
    });
    return payload;
  });
}

function resultOf({ statusCode }: FastifyReply, payload: unknown): string {
  if (statusCode < 400) return "done";
  try {
    return textIn(JSON.parse(String(payload)), "code") ?? String(statusCode);
  } catch {
    return String(statusCode);
  }
}

/** Whoever is erased is not kept by the entry that says so. Who knows the account can still find it. */
const hashedTarget = (request: FastifyRequest): string =>
  `sha256:${createHash("sha256")
    .update(targetOf(request) ?? "")
    .digest("hex")}`;

/** What the route names, and whom its body does. */
function targetOf({ params, body }: FastifyRequest): string | undefined {
  const named = Object.values((params as Record<string, string> | undefined) ?? {});
  const whom = ["player", "account", "network", "to", "name", "lobby"].flatMap((key) => textIn(body, key) ?? []);
  const all = [...named, ...whom];
  return all.length === 0 ? undefined : all.join(" ").slice(0, 300);
}

function textIn(value: unknown, key: string): string | undefined {
  const found = typeof value === "object" && value !== null ? (value as Record<string, unknown>)[key] : undefined;
  return typeof found === "string" ? found : undefined;
}
