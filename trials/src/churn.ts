import { setTimeout as wait } from "node:timers/promises";
import { OperatorClient, PlayerClient, ProblemError } from "@yellow-harbor/client";
import { TRIAL_BUILD } from "./service-under-trial.ts";

export interface ChurnCounts {
  visits: number;
  looks: number;
  /** What should never have happened, in words. */
  readonly faults: string[];
}

/** Players who come, gather, write, chat and go, each in another way; and operators who look at everything meanwhile. */
export class Churn {
  readonly #url: string;
  readonly #counts: ChurnCounts;
  readonly #abort = new AbortController();
  readonly #work: Promise<unknown>;

  constructor(url: string, joiningPlayers: number, counts: ChurnCounts) {
    this.#url = url;
    this.#counts = counts;
    const operator = new OperatorClient({ url });
    this.#work = Promise.all([
      ...Array.from({ length: joiningPlayers }, (_, n) => this.#again(() => this.#visit(n))),
      this.#again(() => this.#look(operator)),
      this.#again(() => this.#watch(operator)),
    ]);
  }

  async end(): Promise<void> {
    this.#abort.abort();
    await Promise.race([this.#work, wait(5_000)]);
  }

  async #again(work: () => Promise<void>): Promise<void> {
    while (!this.#abort.signal.aborted) {
      await work().catch((error: unknown) => {
        // Refusals are part of it: a room may be full, or closed between the list and the join.
        if (!(error instanceof ProblemError) && !this.#abort.signal.aborted) this.#counts.faults.push(String(error));
      });
    }
  }

  async #visit(number: number): Promise<void> {
    const visit = this.#counts.visits++;
    const player = await PlayerClient.connect({ url: this.#url, name: `JoiningPlayer ${number}`, build: TRIAL_BUILD });
    try {
      await player.followRooms();
      if (visit % 3 === 0) await player.openRoom({ capacity: 4 });
      else await player.quickJoin();
      for (let n = 0; n < 20; n++) await player.board.set(`note.${player.id.slice(2)}`, { visit, n });
      await player.changeRoom({ settings: { visit } }).catch(() => undefined);
      await player.setReady(true);
      await player.relay({ visit });
      if (visit % 4 === 1) await player.leaveRoom();
    } finally {
      // Some say goodbye, some are just gone.
      if (visit % 2 === 0) await player.leave();
      else player.drop();
    }
  }

  async #look(operator: OperatorClient): Promise<void> {
    const { rooms } = await operator.rooms();
    const [room] = rooms;
    if (room) await operator.history(room.id, { story: 5 });
    const { journal } = await operator.status();
    await operator.journal({ after: Math.max(0, journal.seq - 100) });
    this.#counts.looks += 1;
    await wait(500);
  }

  /** A watcher who comes and goes too. */
  async #watch(operator: OperatorClient): Promise<void> {
    const over = AbortSignal.any([this.#abort.signal, AbortSignal.timeout(3_000)]);
    try {
      for await (const _ of operator.watch(over));
    } catch (error) {
      if (!over.aborted) throw error;
    }
  }
}
