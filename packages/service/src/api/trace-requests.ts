import type { FastifyRequest } from "fastify";
import type { HttpTrace, Tracing } from "../tracing/tracing.ts";
import type { Api } from "./parts.ts";

/** What is held for as long as the other side likes says nothing by how long it took. */
const HELD = new Set(["/v1/instance/poll", "/v1/watch"]);

/** Traces requests over HTTP, as parts of the traces of their callers where these have one. */
export function traceRequests(api: Api, tracing: Pick<Tracing, "http">): void {
  const traces = new WeakMap<FastifyRequest, HttpTrace>();
  api.addHook("onRequest", async (request) => {
    if (HELD.has(request.routeOptions.url ?? "")) return;
    const { traceparent } = request.headers;
    const trace = tracing.http(request.method, typeof traceparent === "string" ? traceparent : undefined);
    if (trace) traces.set(request, trace);
  });
  api.addHook("onResponse", async (request, reply) => {
    traces.get(request)?.ended(request.routeOptions.url ?? "none", reply.statusCode, reply.problemCode);
  });
}
