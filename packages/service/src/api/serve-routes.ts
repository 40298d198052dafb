import type { HttpRoute, HttpRoutes, Problem, RoutePart } from "@yellow-harbor/protocol";
import type { FastifyReply, FastifyRequest, RouteShorthandOptions } from "fastify";
import type { z } from "zod";
import type { Api } from "./parts.ts";
import { sendProblem } from "./problems.ts";

/** What a request brings, checked by the schemas of its route. */
export interface Given<R> {
  readonly params: RoutePart<R, "params">;
  readonly query: RoutePart<R, "query">;
  readonly body: RoutePart<R, "body">;
  readonly request: FastifyRequest;
  readonly reply: FastifyReply;
}

interface Refused {
  readonly refused: Problem;
}

/** What a route has to be answered with; one whose answer comes piece by piece sends it by itself. */
type Answer<R> = R extends { readonly reply: z.ZodType } ? RoutePart<R, "reply"> : FastifyReply;

export type Handler<R> = (given: Given<R>) => Answer<R> | Refused | Promise<Answer<R> | Refused>;

/** What answers each route of a table. */
export type Handlers<Routes extends HttpRoutes> = { readonly [Name in keyof Routes]: Handler<Routes[Name]> };

/** Adds the routes of a table, each with what answers it. */
export function serveRoutes<Routes extends HttpRoutes>(
  api: Api,
  routes: Routes,
  handlers: Handlers<Routes>,
  more: Pick<RouteShorthandOptions, "helmet"> = {},
): void {
  for (const name of Object.keys(routes))
    serveRoute(api, routes[name] as HttpRoute, handlers[name] as Handler<unknown>, more);
}

function serveRoute(
  api: Api,
  route: HttpRoute,
  handler: Handler<unknown>,
  more: Pick<RouteShorthandOptions, "helmet">,
): void {
  const { method, path: url, params, query: querystring, body, reply: answer, badStatus } = route;
  const response = answer && { 200: answer, ...(badStatus && { [badStatus]: answer }) };
  const schema = {
    ...(params && { params }),
    ...(querystring && { querystring }),
    ...(body && { body }),
    ...(response && { response }),
  };
  api.route({
    ...more,
    method,
    url,
    schema,
    handler: async (request, reply) => {
      // The schemas above have checked what these are.
      const { params, query, body } = request as FastifyRequest & Given<unknown>;
      const given: unknown = await handler({ params, query, body, request, reply });
      return isRefused(given) ? sendProblem(reply, given.refused) : given;
    },
  });
}

const isRefused = (answer: unknown): answer is Refused =>
  typeof answer === "object" && answer !== null && "refused" in answer;
