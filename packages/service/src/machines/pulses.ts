import type { InstanceId, Order } from "@yellow-harbor/protocol";

interface Waiting {
  readonly answer: (orders: readonly Order[]) => void;
  readonly timer: NodeJS.Timeout;
}

/**
 * The open pulses of instances: each is held until there are orders or its time is up. When an instance was last heard
 * is kept here and not in the harbor: it is presence, like an open socket, and starts anew with the service.
 */
export class Pulses {
  readonly #waiting = new Map<InstanceId, Waiting>();
  readonly #heardAtMs = new Map<InstanceId, number>();

  /** Notes a sign of life. */
  hear(instance: InstanceId, nowMs: number): void {
    this.#heardAtMs.set(instance, nowMs);
  }

  /** Starts counting the silence of an instance that may not have been heard yet. */
  expect(instance: InstanceId, nowMs: number): void {
    if (!this.#heardAtMs.has(instance)) this.#heardAtMs.set(instance, nowMs);
  }

  forget(instance: InstanceId): void {
    this.#heardAtMs.delete(instance);
    this.answer(instance, []);
  }

  silentForMs(instance: InstanceId, nowMs: number): number {
    // An open pulse is a sign of life for as long as it is open.
    if (this.#waiting.has(instance)) return 0;
    const heardAt = this.#heardAtMs.get(instance);
    return heardAt === undefined ? 0 : nowMs - heardAt;
  }

  /** Holds a pulse; a second pulse of the same instance has the first answered empty. */
  hold(instance: InstanceId, waitMs: number, answer: (orders: readonly Order[]) => void): () => void {
    this.answer(instance, []);
    const timer = setTimeout(() => this.answer(instance, []), waitMs);
    const waiting = { answer, timer };
    this.#waiting.set(instance, waiting);
    return () => {
      clearTimeout(timer);
      if (this.#waiting.get(instance) === waiting) this.#waiting.delete(instance);
    };
  }

  answer(instance: InstanceId, orders: readonly Order[]): void {
    const waiting = this.#waiting.get(instance);
    if (waiting === undefined) return;
    clearTimeout(waiting.timer);
    this.#waiting.delete(instance);
    waiting.answer(orders);
  }

  answerAll(): void {
    for (const instance of [...this.#waiting.keys()]) this.answer(instance, []);
  }
}
