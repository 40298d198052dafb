import { type HttpRoute, type OperatorRoutes, operatorRoutes } from "@yellow-harbor/protocol";
import { openApiDocument } from "../documents/openapi.ts";
import { callerOf } from "../front-door/caller.ts";
import { operatorRefusal } from "./access.ts";
import { buildHandlers } from "./builds.ts";
import { publicHandlers } from "./health.ts";
import { historyHandlers } from "./history.ts";
import { instanceHandlers } from "./instances.ts";
import { journalHandler } from "./journal.ts";
import { keyHandlers } from "./keys.ts";
import { outputHandler } from "./output.ts";
import type { Api, ApiParts } from "./parts.ts";
import { playerHandlers } from "./players.ts";
import { poolHandlers } from "./pools.ts";
import { sendProblem } from "./problems.ts";
import { queueHandlers } from "./queues.ts";
import { roomVerbs } from "./room-verbs.ts";
import { roomHandlers } from "./rooms.ts";
import { type Handlers, serveRoutes } from "./serve-routes.ts";
import { statusHandler } from "./status.ts";
import { watchHandler } from "./watch.ts";

/** What operators, the game's own back end and anybody else ask. */
export function serveOperators(api: Api, parts: ApiParts): void {
  const needed = new Map<string, HttpRoute["needs"]>(
    Object.values(operatorRoutes).map(({ method, path, needs }) => [`${method} ${path}`, needs]),
  );
  api.addHook("onRequest", async (request, reply) => {
    const { url = "", method } = request.routeOptions;
    // What has no row needs the most.
    const row = `${method === "HEAD" ? "GET" : String(method)} ${url}`;
    const needs = needed.has(row) ? (needed.get(row) ?? null) : "administer";
    if (needs === null) return;
    const from = callerOf(request.raw, parts.trusts);
    const refused = operatorRefusal(request, needs === "instance" ? "administer" : needs, from, parts.access);
    if (refused) return sendProblem(reply, refused);
  });
  const status = statusHandler(parts);
  api.addHook("onClose", async () => status.close());
  const handlers: Handlers<OperatorRoutes> = {
    ...publicHandlers(parts),
    ...roomHandlers(parts),
    ...roomVerbs(parts),
    ...playerHandlers(parts),
    ...queueHandlers(parts),
    ...poolHandlers(parts),
    ...buildHandlers(parts),
    ...instanceHandlers(parts),
    ...historyHandlers(parts),
    ...keyHandlers(parts),
    status: status.handler,
    openApi: () => openApiDocument(),
    output: outputHandler(parts),
    watch: watchHandler(parts),
    journal: journalHandler(parts),
  };
  serveRoutes(api, operatorRoutes, handlers);
}
