import { setTimeout as wait } from "node:timers/promises";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { JournalPage } from "@yellow-harbor/protocol";

export type Recorded = JournalPage["events"][number];

export interface JournalFilter {
  readonly kind?: string | undefined;
  readonly about?: string | undefined;
}

const PAGE = 1_000;

const wantedOf = ({ kind, about }: JournalFilter) => ({
  ...(kind !== undefined && { kind }),
  ...(about !== undefined && { about }),
});

/** Events after a number that fit, up to the newest there is. */
export async function* eventsAfter(
  operator: OperatorClient,
  after: number,
  filter: JournalFilter = {},
): AsyncGenerator<Recorded> {
  for (let from: number | undefined = after; from !== undefined; ) {
    const page: JournalPage = await operator.journal({ after: from, limit: PAGE, ...wantedOf(filter) });
    yield* page.events;
    from = page.next;
  }
}

const LOOK_EVERY_MS = 500;

/** The same without an end: new ones as they are recorded, also over a restart of the service. */
export async function* eventsForEver(
  operator: OperatorClient,
  after: number,
  filter: JournalFilter,
  lost: (error: ProblemError) => void,
): AsyncGenerator<Recorded> {
  for (let from = after; ; ) {
    try {
      const page = await operator.journal({ after: from, limit: PAGE, ...wantedOf(filter) });
      yield* page.events;
      from = page.next ?? page.events.at(-1)?.seq ?? from;
      if (page.next === undefined) await wait(LOOK_EVERY_MS);
    } catch (error) {
      // A service that is started again is there in a moment; who may not ask, or asks wrongly, is told.
      if (!(error instanceof ProblemError) || error.code !== "service-unreachable") throw error;
      lost(error);
      await wait(LOOK_EVERY_MS);
    }
  }
}

/** All events of a kind that the journal has. */
export async function allOf(operator: OperatorClient, kind: string): Promise<Recorded[]> {
  const events: Recorded[] = [];
  for await (const event of eventsAfter(operator, 0, { kind })) events.push(event);
  return events;
}

/** Number of the newest event. */
export const newestOf = async (operator: OperatorClient): Promise<number> => (await operator.status()).journal.seq;

/** Number of the last event before a time: numbers and times grow together, so it is searched by halves. */
export async function lastBefore(operator: OperatorClient, atMs: number): Promise<number> {
  let [low, high] = [0, await newestOf(operator)];
  while (low < high) {
    const middle = Math.floor((low + high) / 2);
    // The next one that is there: the oldest may have been removed.
    const [found] = (await operator.journal({ after: middle, limit: 1 })).events;
    if (found !== undefined && found.atMs < atMs) low = found.seq;
    else high = middle;
  }
  return low;
}
