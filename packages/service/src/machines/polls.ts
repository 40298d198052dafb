import type { InstanceId, Instruction } from "@yellow-harbor/protocol";

interface Waiting {
  readonly answer: (instructions: readonly Instruction[]) => void;
  readonly timer: NodeJS.Timeout;
}

/**
 * The open polls of instances: each is held until there are instructions or its time is up. When an instance was last heard
 * is kept here and not in the harbor: it is presence, like an open socket, and starts anew with the service.
 */
export class Polls {
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
    // An open poll is a sign of life for as long as it is open.
    if (this.#waiting.has(instance)) return 0;
    const heardAt = this.#heardAtMs.get(instance);
    return heardAt === undefined ? 0 : nowMs - heardAt;
  }

  /** Holds a poll; a second poll of the same instance has the first answered empty. */
  hold(instance: InstanceId, waitMs: number, answer: (instructions: readonly Instruction[]) => void): () => void {
    this.answer(instance, []);
    const timer = setTimeout(() => this.answer(instance, []), waitMs);
    const waiting = { answer, timer };
    this.#waiting.set(instance, waiting);
    return () => {
      clearTimeout(timer);
      if (this.#waiting.get(instance) === waiting) this.#waiting.delete(instance);
    };
  }

  answer(instance: InstanceId, instructions: readonly Instruction[]): void {
    const waiting = this.#waiting.get(instance);
    if (waiting === undefined) return;
    clearTimeout(waiting.timer);
    this.#waiting.delete(instance);
    waiting.answer(instructions);
  }

  answerAll(): void {
    for (const instance of [...this.#waiting.keys()]) this.answer(instance, []);
  }
}
