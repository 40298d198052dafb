import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { search, ticketOf } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainMatch, explainTicket } from "./explain.ts";

describe("a queue that chooses by price", () => {
  const priced = (test = testRules()) => {
    const queues = [...test.queues].map(([id, queue]) => {
      const choose = { by: "price", allowance: [[0, 0] as const, [10, 100] as const] } as const;
      return [id, { ...queue, match: { ...queue.match, choose } }] as const;
    });
    return new TestHarbor({ ...test, queues: new Map(queues) });
  };

  it("makes a match once the mean wait makes up for its score, and says what is waited for", () => {
    const test = priced();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    test.pass(2_000);
    search(test, brisa, 1_040);
    test.pass(1_000);
    const { harbor } = test;
    const ticket = ticketOf(test, ansel)?.id ?? "";
    const why = explainTicket(harbor.state, harbor.rules, ticket, test.now);
    // 3 s and 1 s of waiting allow 20 of 40 points: 2 s more have to go by.
    expect(why?.offer).toMatchObject({ score: 40, meanWaitS: 2, allowed: 20, inS: 2 });
    expect(why?.text.join(" ")).toContain(
      "The best match it could have now scores 40; the mean wait of its 2 tickets, 2 s, makes up for 20: with the same tickets it is made in 2 s",
    );
    // It needs nobody new.
    expect(why?.text.join(" ")).not.toContain("new ones have to come");
    test.pass(1_500);
    expect(ticketOf(test, ansel)).toBeDefined();
    test.pass(1_000);
    expect(ticketOf(test, ansel)).toBeUndefined();
    const [match] = harbor.state.queues.matches.values();
    expect(match?.quality).toMatchObject({ score: 40, meanWaitS: 4, allowed: 40 });
    expect(explainMatch(harbor.state, match?.id ?? "")?.text[0]).toContain("4 s, made up for: 40.");
  });

  it("leaves whoever waits longest to a better match of others", () => {
    const test = priced();
    const [ansel, brisa, corin] = ["Ansel", "Brisa", "Corin"].map((name) => test.connect(name));
    search(test, ansel ?? "", 1_000);
    search(test, brisa ?? "", 1_050);
    test.pass(1_000);
    search(test, corin ?? "", 1_051);
    test.pass(500);
    expect(ticketOf(test, ansel ?? "")).toBeDefined();
    expect([ticketOf(test, brisa ?? ""), ticketOf(test, corin ?? "")]).toEqual([undefined, undefined]);
  });

  it("says that a match is never made which scores more than is ever allowed", () => {
    const test = priced();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    search(test, ansel, 1_000);
    search(test, brisa, 1_200);
    test.pass(20_000);
    const why = explainTicket(test.harbor.state, test.harbor.rules, ticketOf(test, ansel)?.id ?? "", test.now);
    expect(why?.offer).toMatchObject({ score: 200, allowed: 100, inS: null });
    expect(why?.text.join(" ")).toContain("more than the allowance ever reaches, so it is not made");
  });
});
