import { isLoopback } from "@yellow-harbor/reach";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import type { KeptHarbor } from "../journal/kept-harbor.ts";
import { type Audit, NOBODY } from "../keys/audit.ts";
import { OperatorKeys } from "../keys/operator-keys.ts";
import { OperatorSessions } from "../keys/operator-sessions.ts";
import { operatorTokenOf } from "../keys/operator-token.ts";
import { WrongKeys } from "../keys/wrong-keys.ts";
import type { OperatorAccess } from "./access.ts";

const HOUR_MS = 3_600_000;

/** What operators are let in by, from what is kept of them. */
export async function makeAccess(
  { operators, listen }: Config,
  { operators: kept, secret }: KeptHarbor,
  { audit, log }: { readonly audit: Audit; readonly log: Logger },
): Promise<OperatorAccess> {
  const { idleHours, maxHours } = operators.sessions;
  const limits = { idleMs: idleHours * HOUR_MS, maxMs: maxHours * HOUR_MS };
  return {
    loopbackIsEnough: operators.access === "open" && isLoopback(listen.host),
    token: operatorTokenOf(secret),
    keys: await OperatorKeys.open(kept),
    sessions: await OperatorSessions.open(kept, limits),
    wrongKeys: new WrongKeys((from) => {
      log.warn({ from }, "a wrong key was shown");
      void audit.add({ actor: NOBODY, from, action: "wrong-key", result: "operator-token-needed" });
    }),
    origins: operators.origins,
  };
}
