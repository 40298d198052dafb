import type { ConfigApplied, Problem } from "@yellow-harbor/protocol";
import type { Alerts } from "./alerts/alerts.ts";
import type { ConfigInForce } from "./config/in-force.ts";
import { changeHarbor } from "./harbor.ts";
import { type Audit, NOBODY } from "./keys/audit.ts";
import type { Logs } from "./logs.ts";
import type { HarborRuntime } from "./runtime/runtime.ts";
import type { ServeOptions } from "./start.ts";
import type { Webhooks } from "./webhooks/webhooks.ts";

interface ReloadParts {
  readonly inForce: ConfigInForce;
  readonly read: ServeOptions["reload"];
  readonly runtime: HarborRuntime;
  readonly alerts: Alerts;
  readonly logs: Logs;
  readonly audit: Audit;
  readonly webhooks: Webhooks;
}

export interface ConfigReload {
  /** Reads the file again and takes what can be taken now. */
  readonly apply: () => Promise<ConfigApplied | { readonly refused: Problem }>;
  /** The same for a signal, whose sender hears nothing: what came of it is in the log and the audit log. */
  readonly bySignal: () => Promise<void>;
}

export function configReload({ inForce, read, runtime, alerts, logs, audit, webhooks }: ReloadParts): ConfigReload {
  const apply = () =>
    inForce.apply({
      read,
      toHarbor: (next, paths) => changeHarbor(runtime, next, paths),
      toOthers: async (next, paths) => {
        alerts.take(next.alerts);
        logs.take(next.log);
        if (paths.some((path) => path.startsWith("webhooks."))) await webhooks.changed();
      },
    });
  const bySignal = async () => {
    const applied = await apply();
    const isRefused = "refused" in applied;
    if (isRefused)
      logs.root.error(
        { code: applied.refused.code, detail: applied.refused.detail },
        "the configuration was not taken",
      );
    else logs.root.info(summaryOf(applied), "the configuration was read again");
    const result = isRefused ? applied.refused.code : "done";
    await audit.add({ actor: NOBODY, from: "signal", action: "applyConfig", result });
  };
  return { apply, bySignal };
}

function summaryOf({ file, changes }: ConfigApplied) {
  const pathsOf = (when: "at-once" | "restart") =>
    changes.filter(({ takes }) => takes === when).map(({ path }) => path);
  const restart = pathsOf("restart");
  return {
    file,
    changed: pathsOf("at-once"),
    ...(restart.length > 0 && { afterRestart: restart, remedy: "restart the service to take these as well" }),
  };
}
