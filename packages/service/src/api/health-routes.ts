import { AboutView, WIRE_VERSION } from "@yellow-harbor/protocol";
import { z } from "zod";
import { callerOf } from "../front-door/caller.ts";
import { failureDetail } from "../runtime/failure.ts";
import type { Api, ApiParts } from "./parts.ts";

const Health = z.object({ ok: z.boolean(), detail: z.string() }).meta({ id: "Health" });

export function healthRoutes(api: Api, parts: ApiParts): void {
  const { runtime, isReady, config, version } = parts;
  const tags = ["health"];
  api.get(
    "/healthz",
    {
      schema: {
        tags,
        summary: "Whether the process is alive and worth keeping.",
        response: { 200: Health, 503: Health },
      },
    },
    async (_request, reply) => {
      const { failure } = runtime;
      if (failure)
        return reply.code(503).send({
          ok: false,
          detail: `Nothing is taken any more, since ${failureDetail(failure)}. Restart the service.`,
        });
      return reply.send({ ok: true, detail: "alive" });
    },
  );
  api.get(
    "/readyz",
    { schema: { tags, summary: "Whether players may be sent here now.", response: { 200: Health, 503: Health } } },
    async (_request, reply) => {
      const ok = isReady() && runtime.failure === undefined;
      return reply
        .code(ok ? 200 : 503)
        .send({ ok, detail: ok ? "ready" : "starting, stopping, or stopped by a fault: see /healthz" });
    },
  );
  api.get(
    "/v1/about",
    { schema: { tags, summary: "What a client has to know before it connects.", response: { 200: AboutView } } },
    async (request, reply) => {
      const { harbor, players } = config;
      const seenAs = callerOf(request.raw, parts.trusts);
      // Pages of other sites may read it: nothing in it is anybody's secret.
      reply.header("access-control-allow-origin", "*");
      return { harbor, version, wire: WIRE_VERSION, accepts: players.builds, seenAs };
    },
  );
}
