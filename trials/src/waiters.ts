import { type OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { TRIAL_BUILD } from "./service-under-trial.ts";

interface Waiter {
  readonly player: PlayerClient;
  readonly ticket: string;
  readonly sinceMs: number | undefined;
}

/** Players who search and never fit each other: what they were told of their search has to stand through every kill. */
export class Waiters {
  readonly #waiters: readonly Waiter[];

  private constructor(waiters: readonly Waiter[]) {
    this.#waiters = waiters;
  }

  static async begin(url: string, count: number): Promise<Waiters> {
    const numbers = Array.from({ length: count }, (_, n) => n);
    return new Waiters(
      await Promise.all(
        numbers.map(async (n) => {
          const reconnect = { firstMs: 50, maxMs: 400, attempts: 200 };
          const player = await PlayerClient.connect({ url, name: `Waiter ${n}`, build: TRIAL_BUILD, reconnect });
          const { ticket } = await player.search({ queue: "pairs", attributes: { skill: 10 * n } });
          return { player, ticket: ticket.id, sinceMs: ticket.sinceMs };
        }),
      ),
    );
  }

  /** How many of the searches are not there any more, or have lost their wait. */
  async lost(operator: OperatorClient): Promise<number> {
    const { tickets } = await operator.tickets({ queue: "pairs" });
    const sinceOf = new Map(tickets.map(({ id, sinceMs }) => [id, sinceMs]));
    return this.#waiters.filter(({ ticket, sinceMs }) => sinceOf.get(ticket) !== sinceMs).length;
  }

  end(): void {
    for (const { player } of this.#waiters) player.drop();
  }
}
