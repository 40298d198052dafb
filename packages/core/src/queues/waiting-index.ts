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
}

/** The pool of a queue, up to date. */
export function poolOf(queues: QueuesState, queue: QueueState, rules: MatchRules): Brought {
  let index = indexes.get(queue);
  if (index === undefined || index.rules !== rules) {
    index = { rules, pool: new MatchPool(rules), rows: new Map(), changed: new Set(queue.tickets) };
    indexes.set(queue, index);
  }
  const refused: { ticket: Ticket; problem: Problem }[] = [];
  for (const id of index.changed) {
    const row = index.rows.get(id);
    if (row) index.pool.remove(row);
    index.rows.delete(id);
    const ticket = queues.tickets.get(id);
    if (ticket === undefined || !isSearching(ticket)) continue;
    const entered = enter(rules, partyOf(ticket));
    if ("refused" in entered) refused.push({ ticket, problem: entered.refused });
    else index.rows.set(id, index.pool.add(entered.entrant));
  }
  index.changed.clear();
  return { pool: index.pool, refused };
}

export const partyOf = ({ id, sinceMs, players, needs }: Ticket): SearchingParty => ({
  ...{ ticket: id, sinceMs: sinceMs ?? 0, needs },
  players: players.map((player) => ({ id: player.id, attributes: player.attributes, latencyMs: player.latencyMs })),
});
