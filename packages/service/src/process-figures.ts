import { type IntervalHistogram, monitorEventLoopDelay } from "node:perf_hooks";
import type { StatusView } from "@yellow-harbor/protocol";

const RESOLUTION_MS = 10;
const NS_PER_MS = 1e6;

/** Memory and event-loop delay of this process. */
export class ProcessFigures {
  readonly #delays: IntervalHistogram = monitorEventLoopDelay({ resolution: RESOLUTION_MS });

  constructor() {
    this.#delays.enable();
  }

  /** The figures since this was asked last. */
  take(): StatusView["process"] {
    const { rss, heapUsed } = process.memoryUsage();
    // The timer that measures is itself due each so many milliseconds; only what it is late is delay.
    const late = (ns: number) => Math.max(0, Math.round((ns / NS_PER_MS - RESOLUTION_MS) * 10) / 10);
    const figures = {
      memoryBytes: rss,
      heapBytes: heapUsed,
      loopDelayMs: late(this.#delays.percentile(99)),
      maxLoopDelayMs: late(this.#delays.max),
    };
    this.#delays.reset();
    return figures;
  }

  close(): void {
    this.#delays.disable();
  }
}
