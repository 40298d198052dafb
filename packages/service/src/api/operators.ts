import { type HttpRoute, type OperatorRoutes, operatorRoutes, problem, VERSION_HEADER } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";
import type { FastifyRequest } from "fastify";
import { openApiDocument } from "../documents/openapi.ts";
import { callerOf } from "../front-door/caller.ts";
import { steadyMs } from "../runtime/clock.ts";
import { admit } from "./access.ts";
import { auditHandlers, auditRequests } from "./audit.ts";
import { banHandlers } from "./bans.ts";
import { buildHandlers } from "./builds.ts";
import { configHandlers } from "./config.ts";
import { publicHandlers } from "./health.ts";
import { historyHandlers } from "./history.ts";
import { instanceHandlers } from "./instances.ts";
import { journalHandler } from "./journal.ts";
import { keyHandlers } from "./keys.ts";
import { lobbyHandlers } from "./lobbies.ts";
import { metricsHandlers } from "./metrics.ts";
import { operatedRoomHandlers } from "./operated-rooms.ts";
import { outputHandler } from "./output.ts";
import { partyHandlers } from "./parties.ts";
import type { Api, ApiParts } from "./parts.ts";
import { peopleHandlers } from "./people.ts";
import { playerHandlers } from "./players.ts";
import { poolHandlers } from "./pools.ts";
import { sendProblem } from "./problems.ts";
import { queueHandlers } from "./queues.ts";
import { reportHandlers } from "./reports.ts";
import { RequestRate } from "./request-rate.ts";
import { roomVerbs } from "./room-verbs.ts";
import { roomHandlers } from "./rooms.ts";
import { type Handlers, serveRoutes } from "./serve-routes.ts";
import { sessionHandlers } from "./sessions.ts";
import { alertHandlers, statusHandler } from "./status.ts";
import { watchHandler } from "./watch.ts";
import { webhookHandlers } from "./webhooks.ts";
import { noteCaller } from "./who.ts";

/** What operators, the game's own back end and anybody else ask. */
export function serveOperators(api: Api, parts: ApiParts): void {
  const rows = new Map<string, { readonly name: string; readonly needs: HttpRoute["needs"] }>(
    Object.entries(operatorRoutes).map(([name, { method, path, needs }]) => [`${method} ${path}`, { name, needs }]),
  );
  const rowOf = ({ routeOptions: { url = "", method } }: FastifyRequest) =>
    rows.get(`${method === "HEAD" ? "GET" : String(method)} ${url}`);
  const perSecond = parts.inForce.current.operators.requestsPerSecond;
  const rate = new RequestRate(perSecond);
  api.addHook("onRequest", async (request, reply) => {
    // What has no row needs the most.
    const { needs } = rowOf(request) ?? { needs: "administer" };
    // What is answered here is nobody else's.
    reply.header("cache-control", "no-store");
    const from = callerOf(request.raw, parts.trusts);
    const admission =
      needs === null ? undefined : admit(request, needs === "instance" ? "administer" : needs, from, parts.access);
    if (admission && "refused" in admission) return sendProblem(reply, admission.refused);
    const caller = admission?.caller;
    if (caller) {
      noteCaller(request, caller);
      reply.header(VERSION_HEADER, parts.version);
    }
    if (!rate.take(caller?.session ?? caller?.key ?? networkOf(from), steadyMs())) {
      const detail = `More than ${perSecond} requests a second; wait a moment, or ask for more at once.`;
      return sendProblem(reply, problem("too-many-requests", detail));
    }
  });
  auditRequests(api, parts, (request) => rowOf(request)?.name ?? request.url);
  const status = statusHandler(parts);
  api.addHook("onClose", async () => status.close());
  const handlers: Handlers<OperatorRoutes> = {
    ...publicHandlers(parts),
    ...roomHandlers(parts),
    ...roomVerbs(parts),
    ...operatedRoomHandlers(parts),
    ...playerHandlers(parts),
    ...lobbyHandlers(parts),
    ...reportHandlers(parts),
    ...partyHandlers(parts),
    ...peopleHandlers(parts),
    ...configHandlers(parts),
    ...queueHandlers(parts),
    ...poolHandlers(parts),
    ...buildHandlers(parts),
    ...instanceHandlers(parts),
    ...historyHandlers(parts),
    ...keyHandlers(parts),
    ...sessionHandlers(parts),
    ...banHandlers(parts),
    ...auditHandlers(parts),
    ...metricsHandlers(parts),
    ...webhookHandlers(parts),
    ...alertHandlers(parts),
    status: status.handler,
    openApi: () => openApiDocument(),
    output: outputHandler(parts),
    watch: watchHandler(parts),
    journal: journalHandler(parts),
  };
  serveRoutes(api, operatorRoutes, handlers);
}
