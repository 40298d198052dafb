import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { clearDeadline, newDeadlines, nextDeadline, setDeadline, takeDue } from "./index.ts";

describe("deadlines", () => {
  it("fall due in the order of their times, each once, moved and cleared ones as they stand last", () => {
    const change = fc.record({ subject: fc.nat(8).map(String), at: fc.option(fc.nat(1000), { nil: undefined }) });
    fc.assert(
      fc.property(fc.array(change, { maxLength: 200 }), (changes) => {
        const deadlines = newDeadlines();
        const model = new Map<string, number>();
        for (const { subject, at } of changes) {
          if (at === undefined) {
            clearDeadline(deadlines, "player-grace", subject);
            model.delete(subject);
          } else {
            setDeadline(deadlines, "player-grace", subject, at);
            model.set(subject, at);
          }
          expect(nextDeadline(deadlines)?.at).toBe(model.size === 0 ? undefined : Math.min(...model.values()));
        }
        const taken: [string, number][] = [];
        for (let due = takeDue(deadlines, 1000); due; due = takeDue(deadlines, 1000)) taken.push([due.subject, due.at]);
        expect(taken.map(([, at]) => at)).toEqual([...model.values()].sort((a, b) => a - b));
        expect(new Map(taken)).toEqual(model);
      }),
    );
  });

  it("are not taken before their time", () => {
    const deadlines = newDeadlines();
    setDeadline(deadlines, "travel-step", "u_1", 500);
    expect(takeDue(deadlines, 499)).toBeUndefined();
    expect(takeDue(deadlines, 500)?.subject).toBe("u_1");
    expect(takeDue(deadlines, 10_000)).toBeUndefined();
  });

  it("do not pile up when the same ones are set and cleared for ever", () => {
    const deadlines = newDeadlines();
    for (let n = 0; n < 100_000; n++) {
      setDeadline(deadlines, "player-grace", `p_${n % 10}`, 1_000_000 + n);
      clearDeadline(deadlines, "player-grace", `p_${n % 10}`);
    }
    expect(deadlines.heap.length).toBeLessThan(200);
  });
});
