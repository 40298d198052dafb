import type { Problem } from "@yellow-harbor/protocol";
import { enter, MatchPool, type MatchRules, type Row, type SearchingParty } from "../matching/index.ts";
import { isSearching, type QueueState, type QueuesState, type Ticket } from "./state.ts";

/**
 * The matcher's own picture of a queue. It is no state: it is made from the tickets when it is first needed, and told of
 * every change after that.
 */
interface Index {
  readonly rules: MatchRules;
  readonly pool: MatchPool;
  readonly rows: Map<string, Row>;
  /** Tickets that changed since the pool was brought up to date. */
  readonly changed: Set<string>;
}

const indexes = new WeakMap<QueueState, Index>();

/** Says that a ticket came, changed or went. */
export function noteChange(queue: QueueState, ticket: string): void {
  indexes.get(queue)?.changed.add(ticket);
}

export interface Brought {
  readonly pool: MatchPool;
  /** Tickets that the rules, as they are now, have no place for. */
  readonly refused: readonly { readonly ticket: Ticket; readonly problem: Problem }[];
  /** Whether changed tickets are left to be taken in. */
  readonly hasMore: boolean;
}

/** The pool of a queue, up to date; or as far as it can be brought by taking in so many tickets. */
export function poolOf(
  queues: QueuesState,
  queue: QueueState,
  rules: MatchRules,
  most = Number.POSITIVE_INFINITY,
): Brought {
  let index = indexes.get(queue);
  if (index === undefined || index.rules !== rules) {
    index = { rules, pool: new MatchPool(rules), rows: new Map(), changed: new Set(queue.tickets) };
    indexes.set(queue, index);
  }
  const refused: { ticket: Ticket; problem: Problem }[] = [];
  let taken = 0;
  for (const id of index.changed) {
    if (taken === most) break;
    taken += 1;
    index.changed.delete(id);
    const row = index.rows.get(id);
    if (row) index.pool.remove(row);
    index.rows.delete(id);
    const ticket = queues.tickets.get(id);
    if (ticket === undefined || !isSearching(ticket)) continue;
    const entered = enter(rules, partyOf(ticket));
    if ("refused" in entered) refused.push({ ticket, problem: entered.refused });
    else index.rows.set(id, index.pool.add(entered.entrant));
  }
  return { pool: index.pool, refused, hasMore: index.changed.size > 0 };
}

export const partyOf = ({ id, sinceMs, players, needs }: Ticket): SearchingParty => ({
  ...{ ticket: id, sinceMs: sinceMs ?? 0, needs },
  players: players.map((player) => ({ id: player.id, attributes: player.attributes, latencyMs: player.latencyMs })),
});
