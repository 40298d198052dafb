import type { AuditActor } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { OperatorStore } from "../journal/operator-store.ts";

/** Who did what nobody who is known did. */
export const NOBODY = { by: "nobody", name: "nobody" } as const;

const DAY_MS = 86_400_000;

export interface Deed {
  readonly actor: AuditActor;
  readonly from: string;
  readonly action: string;
  readonly target?: string | undefined;
  readonly reason?: string | undefined;
  /** `done`, or the code of a problem. */
  readonly result: string;
}

interface AuditParts {
  readonly store: Pick<OperatorStore, "addAudit" | "trimAudit">;
  readonly log: Logger;
  readonly keepDays: number;
  readonly now?: () => number;
}

/** Writes down what operators and moderators do. */
export class Audit {
  readonly #store: AuditParts["store"];
  readonly #log: Logger;
  readonly #keepMs: number;
  readonly #now: () => number;
  readonly #timer: NodeJS.Timeout;

  constructor({ store, log, keepDays, now = Date.now }: AuditParts) {
    this.#store = store;
    this.#log = log;
    this.#keepMs = keepDays * DAY_MS;
    this.#now = now;
    this.#timer = setInterval(() => void this.trim(), DAY_MS);
    this.#timer.unref();
  }

  /** Resolves once it is durable. What cannot be written is in the log of the service. */
  async add({ target, reason, ...deed }: Deed): Promise<void> {
    const more = { ...(target !== undefined && { target }), ...(reason !== undefined && { reason }) };
    try {
      await this.#store.addAudit({ atMs: this.#now(), ...deed, ...more });
    } catch (error) {
      this.#log.error({ err: error, deed: { ...deed, ...more } }, "the audit log could not be written");
    }
  }

  async trim(): Promise<void> {
    try {
      await this.#store.trimAudit(this.#now() - this.#keepMs);
    } catch (error) {
      this.#log.warn({ err: error }, "the audit log could not be shortened");
    }
  }

  end(): void {
    clearInterval(this.#timer);
  }
}
