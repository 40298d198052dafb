import { entrantOf } from "./entrant.ts";
import { MatchPool } from "./pool.ts";
import type { MatchRules, SearchingParty } from "./rules.ts";
import type { Row } from "./waiting.ts";

/** Where to look, and who has come and gone since it was looked there last. */
export interface Look {
  readonly queue: string;
  /** With rules all that was known of the queue before is void. */
  readonly rules?: MatchRules;
  readonly went: readonly string[];
  readonly came: readonly SearchingParty[];
  readonly atMs: number;
  readonly max: number;
  readonly rooms: readonly number[] | undefined;
}

/** A match by the ids of its tickets. */
export interface FoundMatch {
  readonly tickets: readonly string[];
  readonly region: string | null;
  readonly regions: readonly string[];
  readonly sideOf: readonly number[];
  readonly score: number;
}

/** One look takes so much work at the most: some tens of milliseconds, after which an answer is given. */
const WORK_MAX = 150_000;
const NEWCOMERS_MAX = 4_000;

interface Queue {
  readonly pool: MatchPool;
  readonly rows: Map<string, Row>;
}

/** Looks for matches beside the one who decides, who may be in another thread: it knows what it was told, and nothing else. */
export class ApartMatcher {
  readonly #queues = new Map<string, Queue>();

  look(look: Look): { readonly matches: readonly FoundMatch[]; readonly hasMore: boolean } {
    const queue = this.#queueOf(look);
    if (queue === undefined) return { matches: [], hasMore: false };
    const { pool, rows } = queue;
    for (const ticket of look.went) {
      const row = rows.get(ticket);
      if (row) pool.remove(row);
      rows.delete(ticket);
    }
    for (const party of look.came) {
      const entered = entrantOf(pool.rules, party);
      if ("entrant" in entered) rows.set(party.ticket, pool.add(entered.entrant));
    }
    const options = { work: WORK_MAX, newcomers: NEWCOMERS_MAX, max: look.max, rooms: look.rooms };
    const { matches, hasMore } = pool.pass(look.atMs, options);
    const found = matches.map(({ entrants, region, regions, sideOf, score }): FoundMatch => {
      const tickets = entrants.map(({ party }) => party.ticket);
      for (const ticket of tickets) rows.delete(ticket);
      return { tickets, region, regions, sideOf, score };
    });
    return { matches: found, hasMore };
  }

  #queueOf({ queue: name, rules }: Look): Queue | undefined {
    if (rules !== undefined) this.#queues.set(name, { pool: new MatchPool(rules), rows: new Map() });
    return this.#queues.get(name);
  }
}
