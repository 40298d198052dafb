import { expect, it } from "vitest";
import { testRules } from "../../testing/rules.ts";
import { newQueuesState, queueOf, type Ticket } from "../queues/state.ts";
import { WaitingIndex } from "./waiting-index.ts";

const ticket = (n: number): Ticket => ({
  id: `t${n}`,
  queue: "pairs",
  lobby: "quayside",
  leader: `p${n}`,
  players: [{ id: `p${n}`, name: `Player ${n}`, agreed: true, attributes: { skill: n, build: "b1" }, latencyMs: {} }],
  needs: [],
  sinceMs: n,
  untilMs: null,
  held: false,
});

it("tells of so many newcomers at once, and of the others after that", () => {
  const queues = newQueuesState();
  const queue = queueOf(queues, "pairs");
  for (let n = 0; n < 1_100; n++) {
    queues.tickets.set(`t${n}`, ticket(n));
    queue.tickets.add(`t${n}`);
  }
  const rules = testRules().queues.get("pairs")?.match;
  if (rules === undefined) throw new Error("no queue");
  const index = new WaitingIndex();
  index.take("pairs", { queues, queue, rules }, { max: 2_000, isApart: true });
  const first = index.tell("pairs", { id: "q1", untilMs: 1 });
  expect([first.rules, first.came.length, index.hasUntold("pairs")]).toEqual([rules, 1_000, true]);
  const second = index.tell("pairs", { id: "q2", untilMs: 1 });
  expect([second.rules, second.came.length, index.hasUntold("pairs")]).toEqual([undefined, 100, false]);
  expect(new Set([...first.came, ...second.came].map((party) => party.ticket)).size).toBe(1_100);
});
