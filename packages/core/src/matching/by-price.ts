import { older } from "./age.ts";
import { flatCurve, flatValueAt } from "./curve.ts";
import type { Found } from "./found.ts";
import type { Line } from "./line.ts";
import { cheapestPlan, PLAN_PLAYERS_MAX } from "./plan.ts";
import type { Curve } from "./rules.ts";
import type { Row, Waiting } from "./waiting.ts";

/** With so few players who could meet, matches are held against each other in pairs before any is made. */
export const WEIGHED_PLAYERS_MAX = 24;
/** Each time a pair of matches is made anew out of the same tickets the price of all falls; so often at the most. */
const IMPROVEMENTS_MAX = 12;

/** A match that could be made. */
interface Offer {
  readonly anchor: Row;
  readonly found: Found;
  readonly rows: readonly Row[];
  readonly price: number;
}

/** What a pass has to be able to do with tickets. */
export interface Matching {
  readonly waiting: Waiting;
  /** Looks for the best match of a ticket that is good enough; it may be left in the middle. */
  readonly bestFor: (row: Row) => Generator<void, Found | undefined>;
  /** All matches of a ticket with others out of `among` that are good enough. */
  readonly allOf: (row: Row, among: (slot: number) => boolean) => readonly Found[];
  readonly make: (found: Found) => void;
  readonly isEnough: () => boolean;
}

/**
 * A pass that makes the match with the lowest price first. Everybody who is due is looked at before any is made; whose
 * best match has lost somebody to a better one is looked at again. Where few could meet the plan is the best of all.
 */
export class ByPrice {
  readonly #matching: Matching;
  readonly #allowance: Float64Array;
  #nowMs = 0;

  constructor(allowance: Curve, matching: Matching) {
    this.#matching = matching;
    this.#allowance = flatCurve(allowance);
  }

  /** What a match costs: its score, less what the mean wait of its tickets makes up for. */
  priceOf({ score, slots }: Found): number {
    let waitedMs = 0;
    for (const slot of slots) waitedMs += this.#nowMs - (this.#matching.waiting.rows[slot] as Row).rankMs;
    return score - flatValueAt(this.#allowance, waitedMs / slots.length / 1_000);
  }

  *pass(due: readonly Row[], nowMs: number): Generator<void, void> {
    const { waiting, isEnough } = this.#matching;
    this.#nowMs = nowMs;
    const planned = new Set<Line>();
    const offers: Offer[] = [];
    for (const row of due) {
      if (isEnough()) yield;
      if (!waiting.isWaiting(row) || planned.has(row.line)) continue;
      if (row.line.players <= PLAN_PLAYERS_MAX) {
        planned.add(row.line);
        offers.push(...this.#planOf(waiting.rowsOf(row.line)));
      } else offers.push(...(yield* this.#offerOf(row)));
    }
    yield* this.#makeAll(offers.sort(byPrice));
  }

  *#offerOf(row: Row): Generator<void, Offer[]> {
    const found = yield* this.#matching.bestFor(row);
    return found ? [this.#offer(found)] : [];
  }

  #offer(found: Found): Offer {
    const rows = found.slots.map((slot) => this.#matching.waiting.rows[slot] as Row);
    return { anchor: rows[0] as Row, found, rows, price: this.priceOf(found) };
  }

  *#makeAll(offers: Offer[]): Generator<void, void> {
    const { waiting, isEnough } = this.#matching;
    const seen = new Set<Line>();
    for (let offer = offers.shift(); offer; offer = offers.shift()) {
      if (isEnough()) yield;
      const { anchor, rows } = offer;
      const { line } = anchor;
      if (!waiting.isWaiting(anchor)) continue;
      if (!rows.every((row) => waiting.isWaiting(row))) {
        for (const again of yield* this.#offerOf(anchor)) insert(offers, again);
        continue;
      }
      if (line.players > PLAN_PLAYERS_MAX && line.players <= WEIGHED_PLAYERS_MAX && !seen.has(line)) {
        seen.add(line);
        const own = [offer, ...takeOut(offers, line)];
        for (const better of yield* this.#weighed(own, line)) insert(offers, better);
        continue;
      }
      this.#matching.make(offer.found);
    }
  }

  /** The best matches of a few tickets, together. */
  #planOf(rows: readonly Row[]): Offer[] {
    const byAge = rows.toSorted(older);
    return cheapestPlan(byAge, this.#matching.allOf, (found) => this.priceOf(found) * found.packing.players).map(
      (found) => this.#offer(found),
    );
  }

  /**
   * Of the matches that one line could have, the cheapest that go together; then some of them made anew as long as it
   * helps, with tickets that were left out.
   */
  *#weighed(offers: readonly Offer[], line: Line): Generator<void, Offer[]> {
    const starts = [yield* this.#apart([...offers], byPrice), yield* this.#apart(offers.toSorted(byPlace), byPlace)];
    let chosen = starts.reduce((one, other) => (costOf(other) < costOf(one) ? other : one));
    for (let n = 0; n < IMPROVEMENTS_MAX; n++) {
      const better = yield* this.#improved(chosen, line);
      if (better === undefined) break;
      chosen = better;
    }
    return chosen;
  }

  /** Matches without a ticket in common, in an order, as they would be made one after the other. */
  *#apart(offers: Offer[], order: Order): Generator<void, Offer[]> {
    const { waiting, allOf, isEnough } = this.#matching;
    const taken = new Set<Row>();
    const chosen: Offer[] = [];
    for (let offer = offers.shift(); offer; offer = offers.shift()) {
      if (isEnough()) yield;
      if (taken.has(offer.anchor) || !waiting.isWaiting(offer.anchor)) continue;
      if (offer.rows.some((row) => taken.has(row))) {
        const free = allOf(offer.anchor, (slot) => !taken.has(waiting.rows[slot] as Row)).map((found) =>
          this.#offer(found),
        );
        if (free.length > 0)
          insert(
            offers,
            free.reduce((one, other) => (other.price < one.price ? other : one)),
            order,
          );
        continue;
      }
      for (const row of offer.rows) taken.add(row);
      chosen.push(offer);
    }
    return chosen;
  }

  /** The same matches with one of them, or a pair, made anew: the first way that makes all cheaper. */
  *#improved(chosen: readonly Offer[], line: Line): Generator<void, Offer[] | undefined> {
    const { waiting, isEnough } = this.#matching;
    for (const again of [...chosen.map((one) => [one]), ...pairsOf(chosen)]) {
      if (isEnough()) yield;
      if (!chosen.every(({ rows }) => rows.every((row) => waiting.isWaiting(row)))) return undefined;
      const rows = again.flatMap((offer) => offer.rows);
      const left = again.length > 1 ? [] : nearest(waiting.rowsOf(line), chosen, rows);
      if (playersOf([...rows, ...left]) > PLAN_PLAYERS_MAX || (again.length === 1 && left.length === 0)) continue;
      const better = this.#planOf([...rows, ...left]);
      if (costOf(better) >= costOf(again) - 1e-9) continue;
      return [...chosen.filter((each) => !again.includes(each)), ...better];
    }
    return undefined;
  }
}

const pairsOf = (offers: readonly Offer[]): Offer[][] =>
  offers.flatMap((one, n) => offers.slice(n + 1).map((other) => [one, other]));

const playersOf = (rows: readonly Row[]) => rows.reduce((sum, { entrant }) => sum + entrant.players.length, 0);

/** Of the tickets that are in none of the matches those nearest to one of them by the first number, as many as can be planned with it. */
function nearest(all: readonly Row[], chosen: readonly Offer[], to: readonly Row[]): Row[] {
  const taken = new Set(chosen.flatMap(({ rows }) => rows));
  const numberOf = ({ entrant }: Row) => entrant.numbers[0] ?? 0;
  const middle = to.reduce((sum, row) => sum + numberOf(row), 0) / to.length;
  const far = (row: Row) => Math.abs(numberOf(row) - middle);
  const near: Row[] = [];
  let room = PLAN_PLAYERS_MAX - playersOf(to);
  for (const row of all.filter((one) => !taken.has(one)).sort((one, other) => far(one) - far(other))) {
    if (row.entrant.players.length > room) continue;
    room -= row.entrant.players.length;
    near.push(row);
  }
  return near;
}

const costOf = (offers: readonly Offer[]) =>
  offers.reduce((sum, { price, found }) => sum + price * found.packing.players, 0);

/** Of two that cost the same the one of whoever has waited longer. */
const byPrice = (one: Offer, other: Offer) => one.price - other.price || older(one.anchor, other.anchor);

/** From the lowest first number up. */
const byPlace = (one: Offer, other: Offer) => lowestOf(one) - lowestOf(other) || byPrice(one, other);

const lowestOf = ({ rows }: Offer) => Math.min(...rows.map(({ entrant }) => entrant.numbers[0] ?? 0));

type Order = (one: Offer, other: Offer) => number;

function insert(offers: Offer[], offer: Offer, order: Order = byPrice): void {
  let low = 0;
  let high = offers.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (order(offers[middle] as Offer, offer) <= 0) low = middle + 1;
    else high = middle;
  }
  offers.splice(low, 0, offer);
}

/** Takes the offers of one line out of a list. */
function takeOut(offers: Offer[], line: Line): Offer[] {
  const own = offers.filter(({ anchor }) => anchor.line === line);
  const others = offers.filter(({ anchor }) => anchor.line !== line);
  offers.splice(0, offers.length, ...others);
  return own;
}
