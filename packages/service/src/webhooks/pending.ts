import type { NewDeadEvent, StoredWebhookEvent, WebhookPlace } from "../journal/webhook-store.ts";

/** An event on its way to one webhook. */
export interface Pending {
  readonly event: Omit<StoredWebhookEvent, "lobby">;
  /** Those with the same one go one after the other. */
  readonly key: string;
  readonly wasDead: boolean;
  attempts: number;
  /** On the steady clock. */
  dueMs: number;
  isUnderWay: boolean;
}

/**
 * What one webhook has not got yet, in order, and what it has got: events of one key one after the other, others beside
 * them, so that one which is refused again and again holds up its own room alone.
 */
export class PendingEvents {
  #pending: Pending[] = [];
  readonly #got: Set<number>;
  #upTo: number;
  /** Number of the last event that was read. */
  lastRead: number;
  readonly #webhook: string;
  #dead: NewDeadEvent[] = [];
  #revived: number[] = [];
  #isChanged = false;

  constructor({ webhook, upTo, beyond }: WebhookPlace) {
    this.#webhook = webhook;
    this.#upTo = upTo;
    this.#got = new Set(beyond);
    this.lastRead = upTo;
  }

  get count(): number {
    return this.#pending.length;
  }

  get oldestAtMs(): number | undefined {
    return this.#pending[0]?.event.atMs;
  }

  /** Takes an event that was read. One that it has got before, or is not told, counts as got. */
  read(event: StoredWebhookEvent, isMeant: boolean): void {
    this.lastRead = event.number;
    if (this.#got.has(event.number)) return;
    if (isMeant) this.#add(event, false);
    else this.#note(event.number);
  }

  /** Takes a dead event that is to be sent again, unless it is on its way already. */
  revive(event: Pending["event"]): void {
    const isThere = this.#pending.some((one) => one.wasDead && one.event.number === event.number);
    if (!isThere) this.#add(event, true);
  }

  /** The next to be sent in one request, at most `max`: none whose key has one before it that is on its way or waits. */
  next(nowMs: number, max: number): Pending[] {
    const held = new Set<string>();
    const chosen: Pending[] = [];
    for (const one of this.#pending) {
      // What was refused before is tried by itself: the fault may be another's.
      if (one.isUnderWay || one.dueMs > nowMs || (one.attempts > 0 && chosen.length > 0)) held.add(one.key);
      if (held.has(one.key)) continue;
      chosen.push(one);
      if (chosen.length === max || one.attempts > 0) break;
    }
    for (const one of chosen) one.isUnderWay = true;
    return chosen;
  }

  /** When the next one can be sent; undefined while nothing waits but for those that are on their way. */
  nextDueMs(): number | undefined {
    const keys = new Set<string>();
    let next: number | undefined;
    for (const { key, dueMs, isUnderWay } of this.#pending) {
      // Those behind the first of a key wait for it, however long they have been due.
      if (keys.has(key)) continue;
      keys.add(key);
      if (!isUnderWay && (next === undefined || dueMs < next)) next = dueMs;
    }
    return next;
  }

  got(sent: readonly Pending[]): void {
    const gone = new Set(sent);
    this.#pending = this.#pending.filter((one) => !gone.has(one));
    for (const { event, wasDead } of sent) {
      if (wasDead) this.#revived.push(event.number);
      else this.#note(event.number);
    }
    this.#isChanged = true;
  }

  /** It could not be sent, and is tried again at a time. */
  failed(one: Pending, dueMs: number): void {
    one.attempts += 1;
    one.isUnderWay = false;
    one.dueMs = dueMs;
  }

  /** Nothing need wait any longer: the receiver takes something again. */
  hurry(): void {
    for (const one of this.#pending) one.dueMs = 0;
  }

  /** Those that happened before a time and are not on their way. */
  olderThan(atMs: number): Pending[] {
    return this.#pending.filter(({ event, isUnderWay, wasDead }) => !isUnderWay && !wasDead && event.atMs < atMs);
  }

  /** It is put aside. */
  giveUp(one: Pending, why: string, atMs: number): void {
    const { number, type, atMs: happenedAtMs, event } = one.event;
    this.#pending = this.#pending.filter((other) => other !== one);
    this.#dead.push({
      number,
      type,
      atMs: happenedAtMs,
      event,
      attempts: one.attempts + (one.isUnderWay ? 1 : 0),
      givenUpAtMs: atMs,
      why,
    });
    if (!one.wasDead) this.#note(number);
    this.#isChanged = true;
  }

  /** What is to be kept since this was asked last; undefined when nothing has changed. */
  takeProgress(): { place: WebhookPlace; dead: NewDeadEvent[]; revived: number[] } | undefined {
    if (!this.#isChanged) return undefined;
    this.#isChanged = false;
    const [dead, revived] = [this.#dead, this.#revived];
    this.#dead = [];
    this.#revived = [];
    this.#advance();
    return { place: { webhook: this.#webhook, upTo: this.#upTo, beyond: [...this.#got] }, dead, revived };
  }

  /** It could not be kept: it is part of the next. */
  putBack({ dead, revived }: { dead: readonly NewDeadEvent[]; revived: readonly number[] }): void {
    this.#dead.unshift(...dead);
    this.#revived.unshift(...revived);
    this.#isChanged = true;
  }

  #add(event: Pending["event"], wasDead: boolean): void {
    const { partitionkey: key } = JSON.parse(event.event) as { partitionkey: string };
    this.#pending.push({ event, key, wasDead, attempts: 0, dueMs: 0, isUnderWay: false });
  }

  #note(number: number): void {
    this.#got.add(number);
    this.#isChanged = true;
  }

  /** All before the first that waits are got. */
  #advance(): void {
    const first = this.#pending.find(({ wasDead }) => !wasDead)?.event.number ?? this.lastRead + 1;
    this.#upTo = Math.max(this.#upTo, first - 1);
    for (const number of this.#got) if (number <= this.#upTo) this.#got.delete(number);
  }
}
