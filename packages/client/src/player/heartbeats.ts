import type { Echo } from "@yellow-harbor/protocol";

export interface HeartbeatOptions {
  readonly everyMs: number;
  readonly silenceMs: number;
  readonly send: (heartbeat: { frame: "heartbeat"; sentMs: number; roundTripMs?: number }) => void;
  /** Nothing came for as long as the service calls silence. */
  readonly silent: () => void;
}

/** Sends heartbeats, measures their round trips, and notices when nothing comes back any more. */
export class Heartbeats {
  readonly #options: HeartbeatOptions;
  readonly #timer: ReturnType<typeof setInterval>;
  #roundTripMs: number | undefined;
  /** When the first heartbeat was sent after which nothing came. */
  #unansweredSinceMs: number | undefined;

  constructor(options: HeartbeatOptions) {
    this.#options = options;
    this.#timer = setInterval(() => this.#heartbeat(), options.everyMs);
    this.#heartbeat();
  }

  /** Something came from the service. */
  heard(): void {
    this.#unansweredSinceMs = undefined;
  }

  /** Takes an echo; returns the round trip in milliseconds. */
  echo({ sentMs }: Echo): number {
    this.#roundTripMs = Math.max(0, performance.now() - sentMs);
    return this.#roundTripMs;
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  #heartbeat(): void {
    const now = performance.now();
    // Counted from a heartbeat of ours, since a window in the background may have slept all the while.
    if (this.#unansweredSinceMs !== undefined && now - this.#unansweredSinceMs > this.#options.silenceMs) {
      this.stop();
      return this.#options.silent();
    }
    this.#unansweredSinceMs ??= now;
    const roundTripMs = this.#roundTripMs;
    this.#options.send({
      frame: "heartbeat",
      sentMs: Math.round(now * 100) / 100,
      ...(roundTripMs !== undefined && { roundTripMs: Math.round(roundTripMs * 100) / 100 }),
    });
  }
}
