import type { ConfigName, Problem } from "@yellow-harbor/protocol";
import {
  type Entrant,
  entrantOf,
  MatchPool,
  type MatchRules,
  type Row,
  type SearchingParty,
} from "../../matching/index.ts";
import { isSearching, type QueueState, type QueuesState, type Ticket } from "../queues/state.ts";

/** The tickets of one queue as the matcher has them. */
interface Index {
  readonly rules: MatchRules;
  readonly pool: MatchPool;
  readonly rows: Map<string, Row>;
  /** Tickets that changed since the pool was brought up to date. */
  readonly changed: Set<string>;
  /** For whoever looks for matches apart: who has come and gone since it was told. */
  readonly came: Map<string, SearchingParty>;
  readonly went: Set<string>;
  /** Whether it knows of the queue at all. */
  isTold: boolean;
  /** What it was told to do and has not answered, and until when that is waited for. */
  look: { readonly id: string; readonly untilMs: number } | undefined;
  /** Rooms that ask for players and were not looked at in this pass yet; undefined between passes. */
  toFill: string[] | undefined;
}

/** Who comes to another thread is copied: so many at once take some milliseconds. */
const TOLD_MAX = 1_000;

/** What whoever looks for matches apart has to know. */
export interface Told {
  readonly rules?: MatchRules;
  readonly went: readonly string[];
  readonly came: readonly SearchingParty[];
}

export interface Brought {
  readonly pool: MatchPool;
  /** Tickets that the rules, as they are now, have no place for. */
  readonly refused: readonly { readonly ticket: Ticket; readonly problem: Problem }[];
  /** Whether changed tickets are left to be taken in. */
  readonly hasMore: boolean;
}

/**
 * What the matcher has of the queues of one harbor. Derived: it is made from the tickets when it is first needed, told of
 * every change after that, and in no snapshot. Only a pass takes changed tickets in; whoever asks finds it as it was.
 */
export class WaitingIndex {
  readonly #byQueue = new Map<ConfigName, Index>();

  /** Says that a ticket came, changed or went. */
  note(queue: ConfigName, ticket: string): void {
    this.#byQueue.get(queue)?.changed.add(ticket);
  }

  /** For a pass alone: the pool of a queue, brought up to date as far as taking in so many tickets does. */
  take(name: ConfigName, { queues, queue, rules }: Waiters, { max, isApart }: Taking): Brought {
    let index = this.#byQueue.get(name);
    if (index === undefined || index.rules !== rules) {
      index = {
        rules,
        pool: new MatchPool(rules),
        rows: new Map(),
        changed: new Set(queue.tickets),
        came: new Map(),
        went: new Set(),
        isTold: false,
        look: undefined,
        toFill: undefined,
      };
      this.#byQueue.set(name, index);
    }
    const refused: { ticket: Ticket; problem: Problem }[] = [];
    let taken = 0;
    for (const id of index.changed) {
      if (taken === max) break;
      taken += 1;
      index.changed.delete(id);
      const row = index.rows.get(id);
      if (row) index.pool.remove(row);
      index.rows.delete(id);
      index.came.delete(id);
      if (isApart) index.went.add(id);
      const ticket = queues.tickets.get(id);
      if (ticket === undefined || !isSearching(ticket)) continue;
      const entered = entrantOf(rules, partyOf(ticket, rules));
      if ("refused" in entered) refused.push({ ticket, problem: entered.refused });
      else {
        index.rows.set(id, index.pool.add(entered.entrant));
        if (isApart) index.came.set(id, entered.entrant.party);
      }
    }
    return { pool: index.pool, refused, hasMore: index.changed.size > 0 };
  }

  /** Until when an answer is waited for; undefined when nothing was asked. */
  awaitedUntil(name: ConfigName): number | undefined {
    return this.#byQueue.get(name)?.look?.untilMs;
  }

  /** For a pass alone: what has to be told to whoever looks for matches apart, with which it is told. */
  tell(name: ConfigName, look: { readonly id: string; readonly untilMs: number }): Told {
    const index = this.#byQueue.get(name);
    if (index === undefined) return { went: [], came: [] };
    if (!index.isTold) {
      index.came.clear();
      for (const [id, { entrant }] of index.rows) index.came.set(id, entrant.party);
      index.went.clear();
    }
    const came = [...index.came.values()].slice(0, TOLD_MAX);
    const told: Told = { ...(!index.isTold && { rules: index.rules }), went: [...index.went], came };
    for (const { ticket } of came) index.came.delete(ticket);
    index.went.clear();
    index.isTold = true;
    index.look = look;
    return told;
  }

  /** Whether somebody who has come was not told of yet. */
  hasUntold(name: ConfigName): boolean {
    return (this.#byQueue.get(name)?.came.size ?? 0) > 0;
  }

  /** Takes an answer; false when it is none to what was asked last, or the rules are others by now. */
  answered(name: ConfigName, look: string, rules: MatchRules): boolean {
    const index = this.#byQueue.get(name);
    if (index?.look?.id !== look) return false;
    index.look = undefined;
    return index.rules === rules;
  }

  /** Whoever looks for matches apart knows of nothing, in one queue or in all. */
  forgetTold(name?: ConfigName): void {
    const indexes = name === undefined ? [...this.#byQueue.values()] : [this.#byQueue.get(name)];
    for (const index of indexes) {
      if (index === undefined) continue;
      index.isTold = false;
      index.look = undefined;
    }
  }

  /** A ticket as the matcher has it; undefined when it has changed since. */
  entrant(name: ConfigName, ticket: string): Entrant | undefined {
    const index = this.#byQueue.get(name);
    return index === undefined || index.changed.has(ticket) ? undefined : index.rows.get(ticket)?.entrant;
  }

  /** For a pass alone: the rooms that are still to be looked at in it, of those that `asking` names when it begins. */
  toFill(name: ConfigName, asking: () => string[]): string[] {
    const index = this.#byQueue.get(name);
    if (index === undefined) return [];
    index.toFill ??= asking();
    return index.toFill;
  }

  /** Says that a pass is over: the next looks at all rooms again. */
  endPass(name: ConfigName): void {
    const index = this.#byQueue.get(name);
    if (index) index.toFill = undefined;
  }

  /** For whoever asks: all that search in a queue, the longest waiting first. Changes nothing. */
  entrants(name: ConfigName, { queues, queue, rules }: Waiters): readonly Entrant[] {
    const index = this.#byQueue.get(name);
    const isCurrent = index?.rules === rules;
    const known = isCurrent ? index.pool.byAge().filter(({ party }) => !index.changed.has(party.ticket)) : [];
    const others = [...(isCurrent ? index.changed : queue.tickets)].flatMap((id) => {
      const ticket = queues.tickets.get(id);
      if (ticket === undefined || !isSearching(ticket)) return [];
      const entered = entrantOf(rules, partyOf(ticket, rules));
      return "entrant" in entered ? [entered.entrant] : [];
    });
    if (others.length === 0) return known;
    return [...known, ...others].sort((a, b) => a.party.sinceMs - b.party.sinceMs);
  }
}

interface Taking {
  readonly max: number;
  /** Whether matches are looked for elsewhere, where all changes have to be told. */
  readonly isApart: boolean;
}

/** A queue, with its rules as they are now, and where its tickets are. */
interface Waiters {
  readonly queues: QueuesState;
  readonly queue: QueueState;
  readonly rules: MatchRules;
}

/** A ticket as one of its queues has it: without the regions that only another of them looks at. */
export const partyOf = ({ id, sinceMs, players, needs, also }: Ticket, { latency }: MatchRules): SearchingParty => ({
  ticket: id,
  sinceMs: sinceMs ?? 0,
  needs,
  players: players.map((player) => ({
    id: player.id,
    attributes: player.attributes,
    latencyMs: also === undefined ? player.latencyMs : only(player.latencyMs, latency?.regions ?? []),
  })),
});

const only = (latencyMs: Readonly<Record<string, number>>, regions: readonly string[]) =>
  Object.fromEntries(Object.entries(latencyMs).filter(([region]) => regions.includes(region)));
