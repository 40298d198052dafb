import { inOrder, older } from "./age.ts";
import type { Row, Waiting } from "./waiting.ts";

/** So many newcomers are kept, though they may have gone. */
const KEPT_MIN = 1_000;

/** Who is looked at in a pass: newcomers, and in turn those that were looked at before, all by their age. */
export class Turns {
  readonly #waiting: Waiting;
  #byAge: Row[] = [];
  #newcomers: Row[] = [];
  /** Newcomers that passes have not come to yet, by age, from a place on. */
  #backlog: Row[] = [];
  #backlogFrom = 0;
  #turn = 0;

  constructor(waiting: Waiting) {
    this.#waiting = waiting;
  }

  add(row: Row): void {
    this.#newcomers.push(row);
    // Where no pass is ever made nobody takes them out.
    if (this.#newcomers.length > KEPT_MIN + 2 * this.#waiting.size) {
      this.#newcomers = this.#newcomers.filter((one) => this.#waiting.isWaiting(one));
    }
  }

  get hasBacklog(): boolean {
    return this.#backlog.length > 0;
  }

  /** All that wait, the longest waiting first. Changes nothing. */
  all(): Row[] {
    const known = [...this.#byAge, ...this.#backlog.slice(this.#backlogFrom), ...this.#newcomers];
    return known.filter((row) => this.#waiting.isWaiting(row)).sort(older);
  }

  /**
   * Those of the next pass, in the order of their age: at most so many newcomers, and of the others so many; all of them
   * when there are no more than that.
   */
  next(newcomersMax: number, examinedAgain: number): { readonly due: Row[]; readonly isAll: boolean } {
    const newcomers = this.#firstNewcomers(newcomersMax);
    const isAll = this.#waiting.size - newcomers.length <= examinedAgain;
    this.#bringInOrder(newcomers, isAll);
    return { due: isAll ? this.#byAge : this.#share(newcomers, examinedAgain), isAll };
  }

  /** The longest waiting of those that were not looked at yet; the others stay where they are. */
  #firstNewcomers(max: number): Row[] {
    if (this.#newcomers.length > 0) {
      const left = this.#backlog.slice(this.#backlogFrom);
      this.#backlog = inOrder(left.length === 0 ? this.#newcomers : left.concat(this.#newcomers));
      this.#backlogFrom = 0;
      this.#newcomers = [];
    }
    const until = Math.min(this.#backlog.length, this.#backlogFrom + max);
    const first = this.#backlog.slice(this.#backlogFrom, until);
    this.#backlogFrom = until;
    if (until === this.#backlog.length) {
      this.#backlog = [];
      this.#backlogFrom = 0;
    }
    return first.every((row) => this.#waiting.isWaiting(row))
      ? first
      : first.filter((row) => this.#waiting.isWaiting(row));
  }

  /** The next so many in turn, and the newcomers, by age. */
  #share(newcomers: readonly Row[], many: number): Row[] {
    const picked = new Set(newcomers);
    const max = newcomers.length + many;
    for (let n = 0; n < this.#byAge.length && picked.size < max; n++) {
      this.#turn = (this.#turn + 1) % this.#byAge.length;
      const row = this.#byAge[this.#turn] as Row;
      if (this.#waiting.isWaiting(row)) picked.add(row);
    }
    return [...picked].sort(older);
  }

  /** Newcomers take their place by age. Those that have gone stay in the list until they are many, or it is needed whole. */
  #bringInOrder(newcomers: Row[], isWhole: boolean): void {
    this.#byAge = inOrder(this.#byAge.length === 0 ? newcomers : this.#byAge.concat(newcomers));
    if (isWhole ? this.#byAge.length > this.#waiting.size : this.#byAge.length > 2 * this.#waiting.size) {
      this.#byAge = this.#byAge.filter((row) => this.#waiting.isWaiting(row));
    }
  }
}
