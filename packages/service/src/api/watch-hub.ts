import type { WatchMessage } from "@yellow-harbor/protocol";
import type { OperatorEvent } from "../runtime/outbox.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";

export interface WatchSink {
  readonly say: (message: WatchMessage) => void;
  /** What it was told does not go on; it begins anew. */
  readonly end: () => void;
}

/** Those who watch everything: each gets the state first, then what happens, without a gap or a repeat. */
export class WatchHub {
  readonly #runtime: HarborRuntime;
  readonly #watching = new Set<WatchSink>();
  /** Those who have their state. */
  readonly #sinks = new Set<WatchSink>();

  constructor(runtime: HarborRuntime) {
    this.#runtime = runtime;
  }

  /** How many have their state. */
  get count(): number {
    return this.#sinks.size;
  }

  /** Starts watching; returns how to stop. */
  watch(sink: WatchSink): () => void {
    let isOver = false;
    this.#watching.add(sink);
    const stop = this.#runtime.watch((state, atMs) => {
      if (isOver) return;
      sink.say({ message: "state", atMs, state });
      this.#sinks.add(sink);
    });
    return () => {
      isOver = true;
      this.#sinks.delete(sink);
      this.#watching.delete(sink);
      stop();
    };
  }

  happened(happened: OperatorEvent): void {
    if (this.#sinks.size === 0) return;
    const { atMs, kind, text, patch } = happened;
    const message: WatchMessage = { message: "happened", atMs, kind, patch, ...(text !== undefined && { text }) };
    for (const sink of this.#sinks) sink.say(message);
  }

  /** Lets go of everybody: the state goes on from another place. */
  endAll(): void {
    for (const sink of [...this.#watching]) sink.end();
  }
}
