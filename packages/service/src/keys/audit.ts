import type { AuditActor } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { NewAuditEntry, OperatorStore } from "../journal/operator-store.ts";
import type { NewWebhookEvent } from "../journal/webhook-store.ts";

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
  /** Tells webhooks of entries, where they want to be told. */
  readonly teller?: AuditTeller;
}

export interface AuditTeller {
  readonly tell: (entry: NewAuditEntry) => NewWebhookEvent | undefined;
  readonly wake: () => void;
}

/** Writes down what operators and moderators do. */
export class Audit {
  readonly #store: AuditParts["store"];
  readonly #log: Logger;
  readonly #keepMs: number;
  readonly #now: () => number;
  readonly #timer: NodeJS.Timeout;
  readonly #teller: AuditTeller | undefined;

  constructor({ store, log, keepDays, now = Date.now, teller }: AuditParts) {
    this.#teller = teller;
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
      const entry = { atMs: this.#now(), ...deed, ...more };
      const told = this.#teller?.tell(entry);
      await this.#store.addAudit(entry, told);
      if (told) this.#teller?.wake();
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
