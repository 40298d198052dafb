import { pauseMs, type WebhookView } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { isMeant, type WebhookConfig } from "../config/webhook.ts";
import type { WebhookPlace, WebhookStore } from "../journal/webhook-store.ts";
import { steadyMs } from "../runtime/clock.ts";
import { type Pending, PendingEvents } from "./pending.ts";
import { type Posted, postTo } from "./post.ts";
import { secretsNamed, signatureHeaders } from "./sign.ts";

/** Events that are in memory for one webhook. */
const PENDING_MAX = 1_000;
const READ_AT_ONCE = 200;
/** Requests at once to one webhook; one alone once so many have failed in a row. */
const AT_ONCE = 4;
const FAILING_FROM = 3;
const BACK_OFF = { firstMs: 1_000, maxMs: 300_000 };
/** With these the receiver says that it will never take what was sent; all others may change. */
const NEVER = new Set([400, 410, 413, 415, 422]);
/** How long what is under way may take while the service stops. */
const STOP_MS = 1_000;

type Attempt = NonNullable<WebhookView["lastSuccess"]>;

export interface WebhookParts {
  readonly name: string;
  readonly config: WebhookConfig;
  readonly place: WebhookPlace;
  readonly store: WebhookStore;
  readonly log: Pick<Logger, "info" | "warn" | "error">;
  /** A secret of the configuration by its name; undefined when it cannot be read. */
  readonly secretNamed: (name: string) => string | undefined;
  /** Hears how each attempt ended, with its events. */
  readonly attempted: (result: "ok" | "failed" | "dead", events: number, tookMs: number) => void;
  /** Pauses are drawn by it. */
  readonly chance?: () => number;
}

/**
 * Tells one receiver what happens: at least once, what concerns one room or player in its order, and never in anybody's way.
 * What cannot be sent is tried again with growing pauses, then put aside.
 */
export class Webhook {
  readonly #parts: WebhookParts;
  readonly #pending: PendingEvents;
  readonly #stopping = new AbortController();
  readonly #underWay = new Set<Promise<void>>();
  #timer: NodeJS.Timeout | undefined;
  #isFilling = false;
  #isMore = true;
  /** More are to be sent again than are in memory. */
  #isMoreRevived = false;
  #isNoting = false;
  #failures = 0;
  /** Nothing is sent before, on the steady clock. */
  #pausedUntilMs = 0;
  #sent = 0;
  #dead = 0;
  #lastSuccess: Attempt | undefined;
  #lastFailure: Attempt | undefined;

  constructor(parts: WebhookParts, dead: number) {
    this.#parts = parts;
    this.#pending = new PendingEvents(parts.place);
    this.#dead = dead;
  }

  get view(): WebhookView {
    const { name, config } = this.#parts;
    const url = new URL(config.url);
    const { count, oldestAtMs } = this.#pending;
    const due = this.#failures > 0 ? this.#nextDueMs() : undefined;
    return {
      name,
      url: `${url.origin}${url.pathname}`,
      events: [...config.events],
      lobbies: [...config.lobbies],
      state: this.#failures > 0 ? "failing" : count > 0 ? "sending" : "idle",
      waiting: count,
      ...(oldestAtMs !== undefined && { oldestAtMs }),
      sent: this.#sent,
      dead: this.#dead,
      ...(this.#lastSuccess && { lastSuccess: this.#lastSuccess }),
      ...(this.#lastFailure && { lastFailure: this.#lastFailure }),
      ...(due !== undefined && { nextAttemptAtMs: Math.round(Date.now() + Math.max(0, due - steadyMs())) }),
    };
  }

  /** Begins with what was put aside and is to be sent again, then with what it has not got. */
  async begin(): Promise<void> {
    await this.revive();
    this.wake();
  }

  /** There is something new. */
  wake(): void {
    this.#isMore = true;
    void this.#fill();
  }

  /** Takes up what is to be sent again. */
  async revive(): Promise<void> {
    const { store, name } = this.#parts;
    const events = await store.revivedEvents(name, PENDING_MAX);
    for (const event of events) this.#pending.revive(event);
    this.#isMoreRevived = events.length === PENDING_MAX;
    this.#send();
  }

  async #reviveMore(): Promise<void> {
    this.#isMoreRevived = false;
    const { log, name } = this.#parts;
    try {
      await this.#note();
      await this.revive();
    } catch (error) {
      log.warn({ err: error, webhook: name }, "what is to be sent again could not be read");
    }
  }

  /** So many were forgotten. */
  discarded(count: number): void {
    this.#dead = Math.max(0, this.#dead - count);
  }

  /** Sends one text now, whatever else waits. */
  async test(id: string, body: string): Promise<Posted & { tookMs: number }> {
    const beganMs = steadyMs();
    const posted = await this.#post(id, body);
    return { ...posted, tookMs: Math.round(steadyMs() - beganMs) };
  }

  /** Resolves once nothing is under way, and what is known is kept. What was not answered is sent again by the next start. */
  async end(): Promise<void> {
    clearTimeout(this.#timer);
    this.#isMore = false;
    const late = setTimeout(() => this.#stopping.abort(), STOP_MS);
    await Promise.all(this.#underWay);
    clearTimeout(late);
    this.#stopping.abort();
    await this.#note();
  }

  /** Reads on while there is room. */
  async #fill(): Promise<void> {
    if (this.#isFilling) return;
    this.#isFilling = true;
    const { store, config, log, name } = this.#parts;
    try {
      while (this.#isMore && this.#pending.count < PENDING_MAX - READ_AT_ONCE && !this.#stopping.signal.aborted) {
        // What comes meanwhile is looked for once more.
        this.#isMore = false;
        const events = await store.webhookEvents(this.#pending.lastRead, READ_AT_ONCE);
        for (const event of events) {
          const isThere = config.lobbies.length === 0 || (event.lobby !== null && config.lobbies.includes(event.lobby));
          this.#pending.read(event, isThere && isMeant(config.events, event.type));
        }
        if (events.length === READ_AT_ONCE) this.#isMore = true;
        this.#send();
      }
    } catch (error) {
      this.#isMore = true;
      if (!this.#stopping.signal.aborted)
        log.warn({ err: error, webhook: name }, "what a webhook is to be told could not be read");
    }
    this.#isFilling = false;
    void this.#note();
  }

  #send(): void {
    clearTimeout(this.#timer);
    if (this.#stopping.signal.aborted) return;
    const now = steadyMs();
    const most = this.#failures >= FAILING_FROM ? 1 : AT_ONCE;
    while (this.#underWay.size < most && now >= this.#pausedUntilMs) {
      const chosen = this.#pending.next(now, this.#parts.config.batch);
      if (chosen.length === 0) break;
      const sending = this.#attempt(chosen).finally(() => {
        this.#underWay.delete(sending);
        this.#send();
        void this.#fill();
        if (this.#isMoreRevived && this.#pending.count === 0) void this.#reviveMore();
      });
      this.#underWay.add(sending);
    }
    const due = this.#nextDueMs();
    if (due !== undefined && due > now) this.#timer = setTimeout(() => this.#send(), due - now);
    this.#timer?.unref();
  }

  #nextDueMs(): number | undefined {
    const due = this.#pending.nextDueMs();
    return due === undefined ? undefined : Math.max(due, this.#pausedUntilMs);
  }

  async #attempt(chosen: readonly Pending[]): Promise<void> {
    const { attempted, config } = this.#parts;
    const [first] = chosen;
    if (first === undefined) return;
    const body = config.batch === 1 ? first.event.event : `[${chosen.map(({ event }) => event.event).join(",")}]`;
    const beganMs = steadyMs();
    const posted = await this.#post(String(first.event.number), body);
    const tookMs = Math.round(steadyMs() - beganMs);
    const isTaken = "status" in posted && posted.status >= 200 && posted.status < 300;
    const attempt = { atMs: Date.now(), tookMs, events: chosen.length, text: textOf(posted) };
    if (isTaken) {
      if (this.#failures >= FAILING_FROM) this.#pending.hurry();
      this.#failures = 0;
      this.#pausedUntilMs = 0;
      this.#sent += chosen.length;
      this.#dead -= chosen.filter(({ wasDead }) => wasDead).length;
      this.#lastSuccess = attempt;
      this.#pending.got(chosen);
      attempted("ok", chosen.length, tookMs);
    } else if (this.#stopping.signal.aborted) {
      // It is not the receiver's fault.
      for (const one of chosen) one.isUnderWay = false;
    } else {
      this.#failed(chosen, posted, attempt);
    }
    await this.#note();
  }

  #failed(chosen: readonly Pending[], posted: Posted, attempt: Attempt): void {
    const { log, name, config, attempted, chance = Math.random } = this.#parts;
    this.#failures += 1;
    this.#lastFailure = attempt;
    if (this.#failures >= FAILING_FROM) {
      this.#pausedUntilMs = steadyMs() + pauseMs(this.#failures - FAILING_FROM + 1, BACK_OFF, chance);
    }
    if (this.#failures === FAILING_FROM)
      log.warn({ webhook: name, why: attempt.text }, "a webhook does not take what it is told");
    const asked = "status" in posted ? (posted.retryAfterMs ?? 0) : 0;
    const isRefused = "status" in posted && NEVER.has(posted.status) && chosen.length === 1;
    for (const one of chosen) {
      const isOver = Date.now() - one.event.atMs >= config.giveUpAfterMs;
      // What was put aside before has one more attempt for each time that somebody asks for it.
      if (isRefused || isOver || one.wasDead) {
        this.#dead += one.wasDead ? 0 : 1;
        this.#pending.giveUp(one, attempt.text, attempt.atMs);
        attempted("dead", 1, attempt.tookMs);
        continue;
      }
      this.#pending.failed(one, steadyMs() + Math.max(asked, pauseMs(one.attempts + 1, BACK_OFF, chance)));
      attempted("failed", 1, attempt.tookMs);
    }
    // The others need not be tried each by itself to be as late.
    for (const one of this.#pending.olderThan(Date.now() - config.giveUpAfterMs)) {
      this.#dead += 1;
      this.#pending.giveUp(one, attempt.text, attempt.atMs);
      attempted("dead", 1, 0);
    }
  }

  async #post(id: string, body: string): Promise<Posted> {
    const { config, name, secretNamed } = this.#parts;
    const secrets = secretsNamed(config.secrets, secretNamed);
    if (secrets === undefined) {
      return { failed: `a secret of webhook ${name} cannot be read, or has not 24 to 64 bytes` };
    }
    const type = body.startsWith("[") ? "application/cloudevents-batch+json" : "application/cloudevents+json";
    const atS = Math.floor(Date.now() / 1_000);
    const headers = { "content-type": `${type}; charset=utf-8`, ...signatureHeaders(secrets, { id, atS, body }) };
    return postTo(config, { body, headers, signal: this.#stopping.signal });
  }

  /** Keeps how far it is; what changes meanwhile is kept right after. */
  async #note(): Promise<void> {
    if (this.#isNoting) return;
    this.#isNoting = true;
    const { store, log, name } = this.#parts;
    for (let progress = this.#pending.takeProgress(); progress; progress = this.#pending.takeProgress()) {
      try {
        const dropped = await store.noteWebhook(progress);
        if (dropped > 0) {
          this.#dead -= dropped;
          log.error(
            { webhook: name, dropped },
            "too many events were put aside for a webhook; the oldest are forgotten",
          );
        }
      } catch (error) {
        this.#pending.putBack(progress);
        log.warn({ err: error, webhook: name }, "how far a webhook is could not be kept");
        break;
      }
    }
    this.#isNoting = false;
  }
}

function textOf(posted: Posted): string {
  if ("failed" in posted) return posted.failed;
  const { status, text } = posted;
  if (status >= 300 && status < 400) return `${status}: redirects are not followed; set the address that it leads to`;
  return text.trim() === "" ? String(status) : `${status}: ${text.trim().slice(0, 200)}`;
}
