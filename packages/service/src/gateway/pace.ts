import { Transform, type TransformCallback } from "node:stream";
import type { WebSocket } from "ws";

/** Counts bytes, and tells how long those that come too fast have to wait. */
export class Pace {
  readonly #perSecond: number;
  readonly #count: (bytes: number) => void;
  /** When the bytes so far would have passed at the pace, by the monotonic clock. */
  #paidUntilMs = 0;
  bytes = 0;
  lastMs = performance.now();

  constructor(perSecond: number, count: (bytes: number) => void) {
    this.#perSecond = perSecond;
    this.#count = count;
  }

  /** How long to wait before the next, in milliseconds. One second's worth may pass at once after a pause. */
  take(bytes: number): number {
    const now = performance.now();
    this.lastMs = now;
    this.bytes += bytes;
    this.#count(bytes);
    this.#paidUntilMs = Math.max(this.#paidUntilMs, now - 1_000) + (bytes * 1_000) / this.#perSecond;
    return Math.max(0, this.#paidUntilMs - now);
  }

  /** Whether the next may pass at once, or within so many milliseconds. What may not is not paid for. */
  admits(bytes: number, withinMs: number): boolean {
    if (this.#paidUntilMs - performance.now() > withinMs) return false;
    this.take(bytes);
    return true;
  }
}

/** Lets a stream's bytes through at a pace. What comes faster waits; nothing is dropped. */
export const paced = (pace: Pace): Transform =>
  new Transform({
    transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback) {
      const waitMs = pace.take(chunk.length);
      if (waitMs === 0) return done(null, chunk);
      setTimeout(() => done(null, chunk), waitMs);
    },
  });

/** Passes messages on as they are, text as text, at a pace; reads no more while the other side does not. */
export function passMessages(from: WebSocket, to: WebSocket, pace: Pace): void {
  from.on("message", (data: Buffer, binary: boolean) => {
    const waitMs = pace.take(data.length);
    from.pause();
    to.send(data, { binary }, () => setTimeout(() => from.resume(), waitMs));
  });
}
