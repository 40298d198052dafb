import type { z } from "zod";
import { auditRoutes } from "./routes/audit.ts";
import { banRoutes } from "./routes/bans.ts";
import { configRoutes } from "./routes/config.ts";
import { keyRoutes } from "./routes/keys.ts";
import { lobbyRoutes } from "./routes/lobbies.ts";
import { partyRoutes } from "./routes/parties.ts";
import { peopleRoutes } from "./routes/people.ts";
import { playerRoutes } from "./routes/players.ts";
import { poolRoutes } from "./routes/pools.ts";
import { queueRoutes } from "./routes/queues.ts";
import { roomRoutes } from "./routes/rooms.ts";
import { publicRoutes, serviceRoutes } from "./routes/service.ts";
import { sessionRoutes } from "./routes/sessions.ts";
import { webhookRoutes } from "./routes/webhooks.ts";

/** All that operators, back ends and anybody else ask over HTTP; the paths of instances are their own protocol. */
export const operatorRoutes = {
  ...publicRoutes,
  ...serviceRoutes,
  ...configRoutes,
  ...roomRoutes,
  ...playerRoutes,
  ...lobbyRoutes,
  ...partyRoutes,
  ...peopleRoutes,
  ...banRoutes,
  ...queueRoutes,
  ...poolRoutes,
  ...keyRoutes,
  ...sessionRoutes,
  ...auditRoutes,
  ...webhookRoutes,
} as const;

export type OperatorRoutes = typeof operatorRoutes;
export type OperatorRouteName = keyof OperatorRoutes;

/** What a part of a route is once it was checked; undefined where the route has none. */
export type RoutePart<R, Part extends "params" | "query" | "body" | "reply"> = R extends {
  readonly [P in Part]: infer Schema extends z.ZodType;
}
  ? z.output<Schema>
  : undefined;

export { instanceRoutes } from "./routes/instances.ts";
export type { HttpRoute, HttpRoutes, RouteHeader } from "./routes/route.ts";
