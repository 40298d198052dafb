import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { StoredWebhookEvent } from "../journal/webhook-store.ts";
import { PendingEvents } from "./pending.ts";

const eventOf = (number: number, key: string): StoredWebhookEvent => ({
  number,
  type: "room.closed",
  lobby: null,
  atMs: number,
  event: JSON.stringify({ partitionkey: key }),
});

const place = { webhook: "backend", upTo: 0, beyond: [] };

/** A receiver that takes, refuses or is asked again; and a service that is killed at any moment. */
const step = fc.oneof(
  { weight: 5, arbitrary: fc.record({ do: fc.constant("happen" as const), key: fc.constantFrom("a", "b", "c") }) },
  {
    weight: 5,
    arbitrary: fc.record({
      do: fc.constant("send" as const),
      max: fc.integer({ min: 1, max: 3 }),
      ends: fc.constantFrom("taken", "taken", "failed", "given-up" as const),
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant("kill" as const) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant("keep" as const) }) },
);

describe("events that a webhook has not got", () => {
  it("are each taken or put aside, those of one key in their order, whatever fails and whenever the service is killed", () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 120 }), (steps) => {
        const happened: StoredWebhookEvent[] = [];
        let kept: typeof place | { webhook: string; upTo: number; beyond: readonly number[] } = place;
        let pending = new PendingEvents(kept);
        const settled: { number: number; key: string }[] = [];
        const keep = () => {
          kept = pending.takeProgress()?.place ?? kept;
        };
        const read = () => {
          for (const event of happened) if (event.number > pending.lastRead) pending.read(event, true);
        };
        let now = 0;
        const send = (max: number, ends: string) => {
          now += 1;
          // Nothing is under way now: whoever sleeps until the next is due finds something to send then.
          const due = pending.nextDueMs();
          expect(due === undefined).toBe(pending.count === 0);
          now = Math.max(now, due ?? now);
          const chosen = pending.next(now, max);
          expect(chosen.length > 0).toBe(due !== undefined);
          const [first] = chosen;
          if (ends === "taken") pending.got(chosen);
          else if (ends === "given-up" && first && chosen.length === 1) pending.giveUp(first, "no", now);
          else for (const one of chosen) pending.failed(one, now + 2);
          if (ends === "failed" || (ends === "given-up" && chosen.length !== 1)) return;
          for (const { event, key } of chosen) settled.push({ number: event.number, key });
        };
        for (const one of steps) {
          if (one.do === "happen") happened.push(eventOf(happened.length + 1, one.key));
          if (one.do === "keep") keep();
          if (one.do === "kill") pending = new PendingEvents(kept);
          read();
          if (one.do === "send") send(one.max, one.ends);
        }
        read();
        for (let n = 0; n < 4 * happened.length + 4; n++) send(3, "taken");
        keep();
        expect(new Set(settled.map(({ number }) => number))).toEqual(new Set(happened.map(({ number }) => number)));
        expect(kept).toEqual({ webhook: "backend", upTo: happened.length, beyond: [] });
        for (const key of ["a", "b", "c"]) {
          // What comes again after a kill is known by its number; the first coming of each is in order.
          const seen = new Set<number>();
          const first = settled.filter((one) => one.key === key && !seen.has(one.number) && seen.add(one.number));
          const numbers = first.map(({ number }) => number);
          expect(numbers).toEqual([...numbers].sort((x, y) => x - y));
        }
      }),
      { numRuns: 300 },
    );
  });

  it("of one key wait for the one before them, and those of others do not", () => {
    const pending = new PendingEvents(place);
    for (const [n, key] of ["a", "a", "b"].entries()) pending.read(eventOf(n + 1, key), true);
    const [first] = pending.next(0, 1);
    expect(pending.next(0, 9).map(({ event }) => event.number)).toEqual([3]);
    if (first) pending.failed(first, 100);
    expect(pending.next(50, 9)).toEqual([]);
    // What was refused before goes by itself.
    expect(pending.next(100, 9).map(({ event }) => event.number)).toEqual([1]);
  });

  it("are due when the first of their key is, and one at least is sent then", () => {
    const pending = new PendingEvents(place);
    for (const [n, key] of ["a", "a", "b"].entries()) pending.read(eventOf(n + 1, key), true);
    const [first, second, other] = pending.next(0, 3);
    if (!first || !second || !other) throw new Error("three were to be sent");
    pending.failed(first, 900);
    pending.failed(second, 100);
    expect(pending.nextDueMs()).toBe(900);
    pending.got([other]);
    expect(pending.nextDueMs()).toBe(900);
    expect(pending.next(900, 3)).toEqual([first]);
  });

  it("that were got out of order are known after a kill", () => {
    const pending = new PendingEvents(place);
    for (const [n, key] of ["a", "b", "c"].entries()) pending.read(eventOf(n + 1, key), true);
    const sent = pending.next(0, 3);
    pending.got(sent.slice(1));
    const kept = pending.takeProgress()?.place;
    expect(kept).toEqual({ webhook: "backend", upTo: 0, beyond: [2, 3] });
    const again = new PendingEvents(kept ?? place);
    for (const [n, key] of ["a", "b", "c"].entries()) again.read(eventOf(n + 1, key), true);
    expect(again.next(0, 3).map(({ event }) => event.number)).toEqual([1]);
  });
});
