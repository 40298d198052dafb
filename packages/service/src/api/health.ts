import { type OperatorRoutes, WIRE_VERSION } from "@yellow-harbor/protocol";
import { callerOf } from "../front-door/caller.ts";
import { failureDetail, failureRemedy } from "../runtime/failure.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** What anybody may ask. */
export const publicHandlers = (parts: ApiParts): Handlers<Pick<OperatorRoutes, "healthz" | "readyz" | "about">> => ({
  healthz: ({ reply }) => {
    const { failure } = parts.runtime;
    if (failure === undefined) return { ok: true, detail: "alive" };
    reply.code(503);
    const why = failureDetail(failure);
    return { ok: false, detail: `Nothing is taken, since ${why}. ${failureRemedy[failure.what]}` };
  },

  readyz: ({ reply }) => {
    const ok = parts.isReady() && parts.runtime.failure === undefined;
    reply.code(ok ? 200 : 503);
    return { ok, detail: ok ? "ready" : "starting, stopping, or taking nothing: see /healthz" };
  },

  about: ({ request, reply }) => {
    const { config, version } = parts;
    const seenAs = callerOf(request.raw, parts.trusts);
    // Pages of other sites may read it: nothing in it is anybody's secret.
    reply.header("access-control-allow-origin", "*");
    return { harbor: config.harbor, version, wire: WIRE_VERSION, accepts: config.players.builds, seenAs };
  },
});
