import type { Scheduler } from "@yellow-harbor/service";

interface Timer {
  readonly atMs: number;
  readonly number: number;
  readonly run: () => void;
}

/** The clocks of a simulated computer, and what waits for them. Nothing in it waits for real time. */
export class SimTime {
  #steady = 0;
  #wallOffset = Date.UTC(2031, 4, 1);
  #timers: Timer[] = [];
  #soon: (() => void)[] = [];
  #numbers = 0;

  readonly steadyMs = () => this.#steady;
  readonly wallMs = () => this.#steady + this.#wallOffset;

  /** What a service schedules by; nothing of it runs any more once `isAlive` says no. */
  scheduler(isAlive: () => boolean): Scheduler {
    const ifAlive = (run: () => void) => () => isAlive() && run();
    return {
      soon: (run) => void this.#soon.push(ifAlive(run)),
      later: (run, delayMs) => {
        const timer = { atMs: this.#steady + delayMs, number: this.#numbers++, run: ifAlive(run) };
        this.#timers.push(timer);
        return () => {
          this.#timers = this.#timers.filter((one) => one !== timer);
        };
      },
    };
  }

  set(byMs: number): void {
    this.#wallOffset += byMs;
  }

  /** Lets everything happen that waits for nothing but its turn. */
  async settle(): Promise<void> {
    for (;;) {
      // All that hangs on promises has run once the event loop has turned.
      await new Promise<void>((resolve) => setImmediate(resolve));
      const turn = this.#soon.splice(0);
      if (turn.length === 0) return;
      for (const run of turn) run();
    }
  }

  /** Lets time pass; timers fire on the way, each at its time. */
  async pass(ms: number): Promise<void> {
    const until = this.#steady + ms;
    for (;;) {
      const next = this.#timers
        .filter(({ atMs }) => atMs <= until)
        .reduce<Timer | undefined>((first, one) => (first && isBefore(first, one) ? first : one), undefined);
      if (next === undefined) break;
      this.#timers = this.#timers.filter((one) => one !== next);
      this.#steady = Math.max(this.#steady, next.atMs);
      next.run();
      await this.settle();
    }
    this.#steady = until;
  }
}

const isBefore = (a: Timer, b: Timer) => a.atMs < b.atMs || (a.atMs === b.atMs && a.number < b.number);
