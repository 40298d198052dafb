import type { OperatorRoutes } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** The configuration of the service while it runs. */
export const configHandlers = ({
  inForce,
  reload,
  applyConfig,
}: ApiParts): Handlers<Pick<OperatorRoutes, "config" | "configChanges" | "applyConfig">> => ({
  config: () => ({ config: { ...inForce.current } }),
  configChanges: () => inForce.changes(reload),
  applyConfig: () => applyConfig(),
});
