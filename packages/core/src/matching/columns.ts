import type { MatchRules } from "./rules.ts";

/** What is known of each ticket, side by side. */
export interface Columns {
  readonly slots: Int32Array;
  readonly sizes: Uint8Array;
  readonly numbers: Float64Array;
  readonly others: Float64Array;
}

export const columns = (max: number, stride: number, others: number): Columns => ({
  slots: new Int32Array(max),
  sizes: new Uint8Array(max),
  numbers: new Float64Array(max * stride),
  others: new Float64Array(max * others),
});

/** How many numbers a ticket is told from others by. Without any closeness it is the one of when it came. */
export const strideOf = ({ closeness }: MatchRules): number => Math.max(1, closeness.length);

/** Numbers one after the other, in a flat array that grows. */
export class Figures {
  values = new Float64Array(64);
  #length = 0;

  push(value: number): void {
    if (this.#length === this.values.length) {
      const wider = new Float64Array(this.#length * 2);
      wider.set(this.values);
      this.values = wider;
    }
    this.values[this.#length] = value;
    this.#length += 1;
  }

  clear(): void {
    this.values = new Float64Array(64);
    this.#length = 0;
  }
}

export function copy(from: Float64Array, at: number, to: Float64Array, place: number, many: number): void {
  for (let n = 0; n < many; n++) to[place + n] = from[at + n] as number;
}
