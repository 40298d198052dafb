import type { Entrant } from "./entrant.ts";
import { Line } from "./line.ts";
import type { MatchRules } from "./rules.ts";

/** A ticket that was taken in: what stands for it when it is to be taken out again. */
export interface Row {
  readonly entrant: Entrant;
  readonly sinceMs: number;
  /** The same, earlier by what it has a head start of: by this tickets stand before each other. */
  readonly rankMs: number;
  /** Which came first, of two that wait equally long. */
  readonly order: number;
  /** Its number among all that wait, used again once it has gone. */
  readonly slot: number;
  readonly line: Line;
}

const FIRST_SLOTS = 256;

/** All waiting tickets, in the lines of those they could meet. */
export class Waiting {
  readonly lines = new Map<string, Line>();
  /** By slot. */
  readonly rows: (Row | undefined)[] = [];
  readonly entrants: Entrant[] = [];
  readonly positions = { at: new Int32Array(FIRST_SLOTS) };
  size = 0;
  /** Whether any ticket has ever asked something of the others. */
  hasWants = false;
  #entered = 0;
  readonly #free: number[] = [];
  readonly #rules: MatchRules;

  constructor(rules: MatchRules) {
    this.#rules = rules;
  }

  add(entrant: Entrant): Row {
    const { party, key } = entrant;
    const line = this.lines.get(key) ?? new Line(this.#rules, this.positions);
    this.lines.set(key, line);
    const slot = this.#free.pop() ?? this.rows.length;
    const { sinceMs } = party;
    const row: Row = { entrant, sinceMs, rankMs: sinceMs - entrant.headStartMs, order: this.#entered, slot, line };
    this.#entered += 1;
    this.size += 1;
    if (party.needs !== undefined && party.needs.length > 0) this.hasWants = true;
    if (slot >= this.positions.at.length) this.#grow();
    this.positions.at[slot] = -1;
    this.rows[slot] = row;
    this.entrants[slot] = entrant;
    line.add(slot, entrant);
    return row;
  }

  isWaiting(row: Row): boolean {
    return this.rows[row.slot] === row;
  }

  /** Takes out one that is merged in, without looking at more of it than its slot. */
  take(line: Line, slot: number): void {
    line.remove(this.positions.at[slot] as number);
    this.#release(slot);
  }

  remove(row: Row): void {
    if (!this.isWaiting(row)) return;
    const { slot, line, entrant } = row;
    const position = this.positions.at[slot] as number;
    if (position < 0) line.forget(slot, entrant.players.length);
    else line.remove(position);
    this.#release(slot);
    if (line.players === 0) this.lines.delete(entrant.key);
  }

  /** Those of a line that are merged in. */
  rowsOf(line: Line): Row[] {
    const rows: Row[] = [];
    for (let position = 0; position < line.length; position++) {
      const row = this.rows[line.slots[position] as number];
      // A slot may have been used again since.
      if (row?.line === line && this.positions.at[row.slot] === position) rows.push(row);
    }
    return rows;
  }

  /** Merges newcomers in and works out what everybody accepts at a moment. */
  settle(nowMs: number, share = 0): void {
    for (const [key, line] of this.lines) {
      if (line.players === 0) {
        this.lines.delete(key);
        continue;
      }
      line.settle(share);
      line.setMoment(nowMs);
    }
  }

  /** Works out at once what everybody accepts, when everybody will be looked at. */
  refreshAll(): void {
    for (const line of this.lines.values()) line.refreshAll();
  }

  #release(slot: number): void {
    this.rows[slot] = undefined;
    this.#free.push(slot);
    this.size -= 1;
  }

  #grow(): void {
    const wider = new Int32Array(this.positions.at.length * 2);
    wider.set(this.positions.at);
    this.positions.at = wider;
  }
}
