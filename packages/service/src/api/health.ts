import { type OperatorRoutes, type operatorRoutes, WIRE_VERSION } from "@yellow-harbor/protocol";
import type { z } from "zod";
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
    const state = stateOf(parts);
    const ok = state === "ready" || state === "degraded";
    reply.code(ok ? 200 : 503);
    // Names of rules say nothing of the game: who may know more asks /v1/alerts.
    const alerts = [...new Set(parts.alerts.raised.map(({ alert }) => alert))];
    return { ok, state, detail: details[state], alerts };
  },

  about: ({ request, reply }) => {
    const { version } = parts;
    const { harbor, players } = parts.inForce.current;
    const seenAs = callerOf(request.raw, parts.trusts);
    // Pages of other sites may read it: nothing in it is anybody's secret.
    reply.header("access-control-allow-origin", "*");
    return { harbor, version, wire: WIRE_VERSION, accepts: players.builds, seenAs };
  },
});

type Readiness = z.infer<typeof operatorRoutes.readyz.reply>["state"];

function stateOf({ phase, runtime, alerts }: ApiParts): Readiness {
  if (phase() !== "ready") return phase() === "starting" ? "starting" : "stopping";
  if (runtime.failure !== undefined) return "halted";
  return alerts.raised.some(({ severity }) => severity === "page") ? "degraded" : "ready";
}

const details: Readonly<Record<Readiness, string>> = {
  starting: "The service is starting: it takes nobody yet.",
  ready: "Players may be sent here.",
  degraded: "Players may be sent here, and somebody should look at the alerts: `yh status` has them.",
  halted: "Nothing is taken: see /healthz.",
  stopping: "The service is stopping: whoever was here comes back to the next start.",
};
