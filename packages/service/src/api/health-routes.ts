import { z } from "zod";
import type { Api, ApiParts } from "./parts.ts";

const Health = z.object({ ok: z.boolean(), detail: z.string() }).meta({ id: "Health" });

export function healthRoutes(api: Api, { runtime, isReady }: ApiParts): void {
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
        return reply
          .code(503)
          .send({ ok: false, detail: `The journal cannot be written: ${failure.message}. Restart the service.` });
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
        .send({ ok, detail: ok ? "ready" : "starting, stopping, or unable to write the journal" });
    },
  );
}
