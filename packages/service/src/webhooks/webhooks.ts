import { randomUUID } from "node:crypto";
import type { DeadEvent, DeadPage, WebhookTested, WebhookView } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { AlertChange } from "../alerts/alerts.ts";
import type { Config } from "../config/schema.ts";
import { isMeant } from "../config/webhook.ts";
import type { NewAuditEntry } from "../journal/operator-store.ts";
import type { DeadEventRow, NewWebhookEvent, WebhookStore } from "../journal/webhook-store.ts";
import { cloudEvent } from "./teller.ts";
import { Webhook, type WebhookParts } from "./webhook.ts";

interface WebhooksParts extends Pick<WebhookParts, "secretNamed"> {
  /** The configuration that holds now. */
  readonly config: () => Pick<Config, "harbor" | "webhooks">;
  readonly store: WebhookStore;
  readonly log: Logger;
  readonly attempted: (webhook: string, ...how: Parameters<WebhookParts["attempted"]>) => void;
}

/** All webhooks of a harbor. */
export class Webhooks {
  readonly #parts: WebhooksParts;
  readonly #byName = new Map<string, Webhook>();

  constructor(parts: WebhooksParts) {
    this.#parts = parts;
  }

  async begin(): Promise<void> {
    const { store, log, secretNamed, attempted } = this.#parts;
    const { webhooks } = this.#parts.config();
    const places = await store.openWebhooks(Object.keys(webhooks));
    const dead = new Map((await store.deadCounts()).map(({ webhook, count }) => [webhook, count]));
    for (const place of places) {
      const { webhook: name } = place;
      const own = webhooks[name];
      if (own === undefined) continue;
      const heard: WebhookParts["attempted"] = (...how) => attempted(name, ...how);
      const parts = { name, config: own, place, store, log, secretNamed, attempted: heard };
      this.#byName.set(name, new Webhook(parts, dead.get(name) ?? 0));
    }
    await Promise.all([...this.#byName.values()].map((webhook) => webhook.begin()));
  }

  wake(): void {
    for (const webhook of this.#byName.values()) webhook.wake();
  }

  /** Tells of alerts, where somebody wants to be told. */
  async tellAlerts({ raised, cleared }: AlertChange): Promise<void> {
    const { harbor, webhooks } = this.#parts.config();
    const messages = [
      ...raised.map((alert) => ({ type: "alert.raised", alert }) as const),
      ...cleared.map((alert) => ({ type: "alert.cleared", alert }) as const),
    ].filter(({ type }) => Object.values(webhooks).some(({ events }) => isMeant(events, type)));
    if (messages.length === 0) return;
    const atMs = Date.now();
    const events = messages.map(({ type, alert }) => {
      const subject = alert.subject === undefined ? alert.alert : `${alert.alert}/${alert.subject}`;
      const event = cloudEvent(harbor, `alert-${randomUUID()}`, atMs, { type, subject, data: { alert } });
      return { type, lobby: null, atMs, event: JSON.stringify(event) };
    });
    await this.#parts.store.addWebhookEvents(events);
    this.wake();
  }

  /** What is told of an entry of the audit log, where somebody wants to be told. */
  tellAudit(entry: NewAuditEntry): NewWebhookEvent | undefined {
    const { harbor, webhooks } = this.#parts.config();
    if (!Object.values(webhooks).some(({ events }) => isMeant(events, "audit.added"))) return undefined;
    const { atMs } = entry;
    const message = { type: "audit.added", subject: "audit", data: { entry } } as const;
    const event = JSON.stringify(cloudEvent(harbor, `audit-${randomUUID()}`, atMs, message));
    return { type: "audit.added", lobby: null, atMs, event };
  }

  async end(): Promise<void> {
    await Promise.all([...this.#byName.values()].map((webhook) => webhook.end()));
  }

  /** Other webhooks from now on, by the configuration: what is new hears of what happens from here on, and none hears twice. */
  async changed(): Promise<void> {
    await this.end();
    this.#byName.clear();
    await this.begin();
  }

  views(): WebhookView[] {
    return [...this.#byName.values()].map(({ view }) => view);
  }

  has(name: string): boolean {
    return this.#byName.has(name);
  }

  async dead(name: string, after: number, limit: number): Promise<DeadPage> {
    const rows = await this.#parts.store.deadEvents(name, after, limit + 1);
    const events = rows.slice(0, limit).map(deadView);
    const last = events.at(-1);
    return { events, ...(rows.length > limit && last && { next: last.number }) };
  }

  async resend(name: string, numbers: readonly number[] | undefined): Promise<number> {
    const count = await this.#parts.store.settleDead(name, numbers, "again");
    await this.#byName.get(name)?.revive();
    return count;
  }

  async discard(name: string, numbers: readonly number[] | undefined): Promise<number> {
    const count = await this.#parts.store.settleDead(name, numbers, "discard");
    this.#byName.get(name)?.discarded(count);
    return count;
  }

  async test(name: string): Promise<WebhookTested | undefined> {
    const webhook = this.#byName.get(name);
    if (webhook === undefined) return undefined;
    const config = this.#parts.config();
    const id = `test-${randomUUID()}`;
    const message = { type: "webhook.test", subject: name, data: { webhook: name } } as const;
    const event = JSON.stringify(cloudEvent(config.harbor, id, Date.now(), message));
    const batch = config.webhooks[name]?.batch ?? 1;
    const posted = await webhook.test(id, batch > 1 ? `[${event}]` : event);
    if ("failed" in posted) return { ok: false, tookMs: posted.tookMs, text: posted.failed };
    const { status, text, tookMs } = posted;
    return { ok: status >= 200 && status < 300, tookMs, text: `${status} ${text.slice(0, 200)}`.trim() };
  }
}

const deadView = ({ number, type, atMs, attempts, givenUpAtMs, why, again, event }: DeadEventRow): DeadEvent => {
  const sent = JSON.parse(event) as Record<string, unknown>;
  return { number, type, subject: String(sent["subject"]), atMs, attempts, givenUpAtMs, why, again, event: sent };
};
