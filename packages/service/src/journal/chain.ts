import { createHash } from "node:crypto";
import { type AnyRow, type PackedRows, packRows } from "./packing.ts";

/** The sum of a journal in which nothing has happened yet. */
export const NOTHING_YET: Buffer = Buffer.alloc(32);

/**
 * The sum of a journal after one more batch: SHA-256 of the sum before it and of all that the batch holds. Nothing can be
 * changed, left out or put in without every later sum being another.
 */
export const chained = (before: Buffer, rows: readonly AnyRow[]): Buffer => chainedPacked(before, packRows(rows));

/** The same of a batch that is packed already: a few long strings cost less than many short ones. */
export function chainedPacked(before: Buffer, { seqs, atMs, kinds, bodies }: PackedRows): Buffer {
  // Events follow each other without a gap, and neither a kind nor a body has line breaks of its own.
  const head = `${seqs[0]} ${seqs.length}\n${atMs.join(" ")}\n`;
  return createHash("sha256").update(before).update(head).update(kinds).update("\n").update(bodies).digest();
}

export const sumOf = (body: string): Buffer => createHash("sha256").update(body).digest();

/** Goes along a journal and holds its events against the sums that were stored with them. */
export class ChainReader {
  #sum: Buffer | undefined;
  #batch: AnyRow[] = [];
  #nextSeq: number;

  /** `sum` is that of the journal before `fromSeq`; without it the first sum that comes is taken as it is. */
  constructor(fromSeq: number, sum: Buffer | undefined) {
    this.#nextSeq = fromSeq;
    this.#sum = sum;
  }

  get nextSeq(): number {
    return this.#nextSeq;
  }

  /** Takes the next event. Returns what is wrong with the journal up to it, or undefined. */
  take(row: AnyRow, chain: Buffer | null): string | undefined {
    if (row.seq !== this.#nextSeq) return `event ${this.#nextSeq} is missing`;
    this.#nextSeq += 1;
    if (this.#sum !== undefined) this.#batch.push(row);
    if (chain === null) return undefined;
    const first = this.#batch[0]?.seq ?? row.seq;
    const is = this.#sum && chained(this.#sum, this.#batch);
    this.#sum = chain;
    this.#batch = [];
    if (is === undefined || is.equals(chain)) return undefined;
    return `the events ${first} to ${row.seq} are not those that were written: their checksum differs`;
  }

  /** What is wrong with an end here: events that belong to no whole batch. */
  end(): string | undefined {
    const [first] = this.#batch;
    return first && `from event ${first.seq} on there is no checksum`;
  }
}
