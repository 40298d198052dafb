import { type HttpRoute, instanceRoutes, type OperatorRoutes, operatorRoutes } from "@yellow-harbor/protocol";
import { METRICS_TYPE, type Metrics } from "../metrics/metrics.ts";
import type { Api, ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** What monitoring systems read. */
export const metricsHandlers = ({ metrics }: ApiParts): Handlers<Pick<OperatorRoutes, "metrics">> => ({
  metrics: async ({ reply }) => reply.type(METRICS_TYPE).send(await metrics.text()),
});

/** Whose request each path is, and what its row of the table is called. */
const rows = new Map([...named("operator", operatorRoutes), ...named("instance", instanceRoutes)]);

function named(to: "operator" | "instance", routes: Readonly<Record<string, HttpRoute>>) {
  return Object.entries(routes).map(
    ([route, { method, path }]): [string, { readonly to: "operator" | "instance"; readonly route: string }] => [
      `${method} ${path}`,
      { to, route },
    ],
  );
}

/** Counts what is asked over HTTP, and what is refused. */
export function countRequests(api: Api, metrics: Metrics): void {
  api.addHook("onResponse", async ({ routeOptions: { url = "", method } }, reply) => {
    const { to, route } = rows.get(`${String(method)} ${url}`) ?? { to: "operator", route: "none" };
    metrics.count("yh_http_requests_total", { route, status: `${Math.floor(reply.statusCode / 100)}xx` });
    if (reply.problemCode !== null) metrics.count("yh_refusals_total", { to, code: reply.problemCode });
  });
}
