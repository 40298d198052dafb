import type { WorkerView } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import type { ClientEvents } from "../gateway/client-channel.ts";
import type { SocketHolder } from "../gateway/gateway.ts";
import { Worker } from "./worker.ts";

/** Pause before a worker that has ended is replaced, and the longest; each is twice the one before, until one stays. */
const FIRST_PAUSE_MS = 100;
const LONGEST_PAUSE_MS = 5_000;
/** One that has lived so long is taken for one that stays. */
const STAYS_MS = 30_000;

/** So long a start waits for its workers; players who come before one is there stay with the service itself. */
const BEGIN_MS = 5_000;
const CLOCK_EVERY_MS = 1_000;
/** So long workers may take to end when they are told to. */
const END_MS = 2_000;

interface PoolParts {
  readonly count: number;
  readonly config: Config;
  readonly now: () => number;
  readonly events: ClientEvents;
  readonly log: Logger;
}

/** Workers that have the sockets of players' clients. One that ends is replaced; its clients come back by themselves. */
export class WorkerPool implements SocketHolder {
  readonly #parts: PoolParts;
  readonly #workers = new Set<Worker>();
  readonly #clock: NodeJS.Timeout;
  readonly #timers = new Set<NodeJS.Timeout>();
  #pauseMs = FIRST_PAUSE_MS;
  #replaced = 0;
  #isOver = false;
  #ended: (() => void) | undefined;
  #readied: (() => void) | undefined;

  constructor(parts: PoolParts) {
    this.#parts = parts;
    for (let n = 1; n <= parts.count; n++) this.#start(n);
    this.#clock = setInterval(() => {
      for (const worker of this.#workers) this.#tellTime(worker);
    }, CLOCK_EVERY_MS);
    this.#clock.unref();
  }

  /** Resolves once all that were started can be handed sockets. A start waits for them, but not for ever. */
  async begin(): Promise<void> {
    const waiting = [...this.#workers].filter(({ isReady }) => !isReady).length;
    if (waiting === 0) return;
    await new Promise<void>((resolve) => {
      this.#readied = resolve;
      setTimeout(resolve, BEGIN_MS).unref();
    });
  }

  /** The one with the fewest clients; undefined while none is there. */
  leastBusy(): Worker | undefined {
    let found: Worker | undefined;
    for (const worker of this.#workers) {
      if (worker.isReady && worker.connections < (found?.connections ?? Number.POSITIVE_INFINITY)) found = worker;
    }
    return found;
  }

  views(): { readonly workers: WorkerView[]; readonly replaced: number } {
    const now = Date.now();
    const workers = [...this.#workers].map(
      ({ number, figures, pid, isReady, connections, unreadBytes, startedAtMs }) => ({
        number,
        ...figures,
        pid,
        isReady,
        connections,
        unreadBytes,
        upMs: now - startedAtMs,
      }),
    );
    return { workers, replaced: this.#replaced };
  }

  flush(): void {
    for (const worker of this.#workers) worker.flush();
  }

  flushSoon(): void {
    for (const worker of this.#workers) worker.flushSoon();
  }

  async close(): Promise<void> {
    this.#isOver = true;
    clearInterval(this.#clock);
    for (const timer of this.#timers) clearTimeout(timer);
    if (this.#workers.size === 0) return;
    this.flush();
    const pids = [...this.#workers].map(({ pid }) => pid);
    const ended = new Promise<void>((resolve) => {
      this.#ended = resolve;
    });
    // Clients close with it; whoever does not is cut by the end of its worker.
    const begin = Date.now();
    while (this.#open > 0 && Date.now() - begin < END_MS / 2) await new Promise((resolve) => setTimeout(resolve, 10));
    for (const worker of this.#workers) worker.end();
    const patience = setTimeout(() => {
      for (const pid of pids) kill(pid);
    }, END_MS);
    await ended;
    clearTimeout(patience);
  }

  get #open(): number {
    let open = 0;
    for (const { connections } of this.#workers) open += connections;
    return open;
  }

  #start(number: number): void {
    const { config, events, log } = this.#parts;
    const worker = new Worker({
      number,
      start: { players: config.players, logLevel: log.level },
      events,
      ready: () => {
        if ([...this.#workers].every(({ isReady }) => isReady)) this.#readied?.();
      },
      ended: (one, why) => this.#wasLost(one, why),
    });
    this.#workers.add(worker);
    this.#tellTime(worker);
  }

  #wasLost(worker: Worker, why: string): void {
    const { log } = this.#parts;
    this.#workers.delete(worker);
    if (this.#isOver) {
      if (this.#workers.size === 0) this.#ended?.();
      return;
    }
    const livedMs = Date.now() - worker.startedAtMs;
    if (livedMs > STAYS_MS) this.#pauseMs = FIRST_PAUSE_MS;
    log.error(
      { pid: worker.pid, why, livedMs },
      "a worker has ended; its players come back, and another takes its place",
    );
    this.#replaced += 1;
    const timer = setTimeout(() => {
      this.#timers.delete(timer);
      this.#start(worker.number);
    }, this.#pauseMs);
    this.#timers.add(timer);
    this.#pauseMs = Math.min(this.#pauseMs * 2, LONGEST_PAUSE_MS);
  }

  #tellTime(worker: Worker): void {
    worker.say({ to: "clock", atMs: this.#parts.now() });
    worker.flush();
  }
}

function kill(pid: number): void {
  try {
    process.kill(pid, "SIGKILL");
  } catch {
    // It has ended meanwhile.
  }
}
