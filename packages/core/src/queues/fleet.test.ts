import { describe, expect, it } from "vitest";
import { bringUp, instanceOf } from "../testing/scenes.ts";
import { search, ticketOf, told } from "../testing/searching.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { explainTicket } from "./explain.ts";

describe("a queue whose pool is full", () => {
  it("makes no match until there is somewhere to play it, and says so", () => {
    const test = new TestHarbor();
    const pairs = Array.from(
      { length: 5 },
      (_, n) => [test.connect(`Ansel ${n}`), test.connect(`Brisa ${n}`)] as const,
    );
    for (const [n, pair] of pairs.entries()) for (const player of pair) search(test, player, 1_000 * (n + 1));
    test.pass(500);
    const rooms = () => pairs.flatMap(([one]) => test.harbor.state.players.byId.get(one)?.room ?? []);
    const places = rooms().length;
    expect(places).toBeLessThan(5);
    const [waits = ""] = pairs.map(([one]) => one).filter((one) => ticketOf(test, one) !== undefined);
    test.pass(10_000);
    // Whoever waits was never thrown into a room and out again, and can read why.
    expect(told(test, waits).filter(({ kind }) => kind !== "ticket-changed")).toEqual([]);
    const { text } =
      explainTicket(test.harbor.state, test.harbor.rules, ticketOf(test, waits)?.id ?? "", test.now) ?? {};
    expect(text?.join(" ")).toMatch(/there is nowhere to play it: pool sluice runs 3 of the 3 instances it may/);
    // The pool has a place again once a match is over.
    const [room = ""] = rooms();
    const instance = instanceOf(test, room);
    bringUp(test, room);
    test.ok({ do: "room.dissolve", room, reason: "maintenance", by: "operator" });
    test.ok({ do: "instance.exited", instance, exitCode: 0, signal: null });
    test.pass(6_000);
    expect(ticketOf(test, waits)).toBeUndefined();
  });
});
