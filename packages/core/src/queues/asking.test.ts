import { describe, expect, it } from "vitest";
import type { HarborRules } from "../model/rules.ts";
import { testRules } from "../testing/rules.ts";
import { search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainTicket } from "./explain.ts";

/** The queues of the test, with one more thing that they ask of every ticket. */
function withNeed(rules: HarborRules): HarborRules["queues"] {
  return new Map(
    [...rules.queues].map(([id, queue]) => {
      const needs = [...queue.match.needs, { attribute: "skill", from: 2_000 }];
      return [id, { ...queue, match: { ...queue.match, needs } }] as const;
    }),
  );
}

/** A search that the rules have no place for after they change; somebody may ask about it all the while. */
function changedUnder(asks: boolean) {
  const test = new TestHarbor();
  const ask = () => {
    if (!asks) return;
    for (const id of test.harbor.state.queues.tickets.keys())
      explainTicket(test.harbor.state, test.harbor.rules, id, test.now);
  };
  const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name)) as [
    string,
    string,
    string,
  ];
  search(test, ansel, 1_000);
  ask();
  test.pass(600);
  ask();
  search(test, brisa, 2_500);
  ask();
  const queues = test.harbor.changeRules({ ...test.harbor.rules, queues: withNeed(testRules()) });
  ask();
  test.run({ do: "harbor.change-rules", paths: [], queues });
  ask();
  search(test, corin, 2_510);
  ask();
  test.pass(600);
  ask();
  test.pass(600);
  return { test, ansel, brisa };
}

describe("asking why a ticket waits", () => {
  it("changes nothing: who asks all the time gets the same events as who never does", () => {
    const [asked, quiet] = [changedUnder(true), changedUnder(false)];
    expect(asked.test.journal).toEqual(quiet.test.journal);
    expect(asked.test.appliedEvents.map(({ pushes }) => pushes)).toEqual(
      quiet.test.appliedEvents.map(({ pushes }) => pushes),
    );
    // The ticket that has no place any more is told so, and the others are matched.
    expect(told(asked.test, asked.ansel).at(-1)).toMatchObject({ kind: "ticket-ended", cause: "refused" });
    expect(ticketOf(asked.test, asked.ansel)).toBeUndefined();
    expect(ticketOf(asked.test, asked.brisa)).toBeUndefined();
  });
});
