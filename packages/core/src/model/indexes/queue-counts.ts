import type { ConfigName, TicketId } from "@yellow-harbor/protocol";
import { isSearching, queuesOf, type Ticket } from "../queues/state.ts";

export interface QueueCount {
  /** Tickets that search now, and their players. */
  readonly tickets: number;
  readonly players: number;
  /** Matches whose players are asked. */
  readonly confirming: number;
  /** Since when the oldest of them searches. */
  readonly oldestSinceMs: number | undefined;
}

/** One queue in numbers. */
class Counter implements QueueCount {
  readonly #queue: ConfigName;
  tickets = 0;
  players = 0;
  /** Since when each ticket searches, the oldest at the root; those that have gone stay until they come up. */
  readonly #heap: { readonly sinceMs: number; readonly id: TicketId }[] = [];
  readonly #sinceMs = new Map<TicketId, number>();
  /** Tickets of each match whose players are asked. */
  readonly #asked = new Map<string, number>();

  constructor(queue: ConfigName) {
    this.#queue = queue;
  }

  get confirming(): number {
    return this.#asked.size;
  }

  get oldestSinceMs(): number | undefined {
    return this.#heap[0]?.sinceMs;
  }

  change(before: Ticket | undefined, after: Ticket | undefined): void {
    if (before !== undefined) this.#count(before, -1);
    if (after !== undefined) this.#count(after, 1);
    if (before !== undefined && isSearching(before)) this.#sinceMs.delete(before.id);
    if (after !== undefined && isSearching(after)) {
      this.#sinceMs.set(after.id, after.sinceMs);
      this.#push({ sinceMs: after.sinceMs, id: after.id });
    }
    this.#dropGone();
  }

  #count(ticket: Ticket, sign: 1 | -1): void {
    const { asked, askedIn, players } = ticket;
    if (isSearching(ticket)) {
      this.tickets += sign;
      this.players += sign * players.length;
    }
    if (asked === undefined || askedIn !== this.#queue) return;
    const left = (this.#asked.get(asked) ?? 0) + sign;
    if (left === 0) this.#asked.delete(asked);
    else this.#asked.set(asked, left);
  }

  #dropGone(): void {
    for (let [root] = this.#heap; root && this.#sinceMs.get(root.id) !== root.sinceMs; [root] = this.#heap) this.#pop();
  }

  #push(one: { readonly sinceMs: number; readonly id: TicketId }): void {
    const heap = this.#heap;
    let at = heap.push(one) - 1;
    for (let up = (at - 1) >> 1; at > 0 && (heap[up]?.sinceMs ?? 0) > one.sinceMs; at = up, up = (at - 1) >> 1) {
      heap[at] = heap[up] as typeof one;
    }
    heap[at] = one;
  }

  #pop(): void {
    const heap = this.#heap;
    const last = heap.pop();
    if (last === undefined || heap.length === 0) return;
    let at = 0;
    for (;;) {
      let down = 2 * at + 1;
      if (down >= heap.length) break;
      if (down + 1 < heap.length && (heap[down + 1]?.sinceMs ?? 0) < (heap[down]?.sinceMs ?? 0)) down += 1;
      if ((heap[down]?.sinceMs ?? 0) >= last.sinceMs) break;
      heap[at] = heap[down] as typeof last;
      at = down;
    }
    heap[at] = last;
  }
}

const NONE: QueueCount = { tickets: 0, players: 0, confirming: 0, oldestSinceMs: undefined };

/** The queues of one harbor in numbers. Derived: told of every change of a ticket, and in no snapshot. */
export class QueueCounts {
  readonly #byQueue = new Map<ConfigName, Counter>();
  /** Players of all tickets, searching or not, by the lobby that they are in. */
  readonly #inLobby = new Map<ConfigName, number>();

  of(queue: ConfigName): QueueCount {
    return this.#byQueue.get(queue) ?? NONE;
  }

  searchingIn(lobby: ConfigName): number {
    return this.#inLobby.get(lobby) ?? 0;
  }

  change(before: Ticket | undefined, after: Ticket | undefined): void {
    this.#countInLobby(before, -1);
    this.#countInLobby(after, 1);
    const [was, is] = [before, after].map((ticket) => (ticket ? queuesOf(ticket) : []));
    for (const queue of new Set([...(was ?? []), ...(is ?? [])])) {
      const counter = this.#byQueue.get(queue) ?? new Counter(queue);
      this.#byQueue.set(queue, counter);
      counter.change(was?.includes(queue) ? before : undefined, is?.includes(queue) ? after : undefined);
    }
  }

  #countInLobby(ticket: Ticket | undefined, sign: 1 | -1): void {
    if (ticket === undefined) return;
    const { lobby, players } = ticket;
    this.#inLobby.set(lobby, this.searchingIn(lobby) + sign * players.length);
  }
}
