import type { Outcome } from "../harbor/harbor.ts";
import { testRules } from "./rules.ts";
import type { TestHarbor } from "./test-harbor.ts";

/** A player searches in a queue of the test rules with a skill, and whatever more. */
export const search = (test: TestHarbor, player: string, skill: number, more: object = {}): Outcome =>
  test.run({ do: "queue.join", player, args: { queue: "pairs", attributes: { skill }, ...more } });

/** What a player was told for itself alone. */
export const told = (test: TestHarbor, player: string) =>
  test.appliedEvents
    .flatMap(({ pushes }) => pushes)
    .flatMap((push) => (push.scope === "you" && push.to === player ? [push.update] : []));

export const ticketOf = (test: TestHarbor, player: string) => {
  const { tickets, byPlayer } = test.harbor.state.queues;
  return tickets.get(byPlayer.get(player) ?? "");
};

/** The test rules with queues of two against two, in parties of up to two. */
export function pairOfRules() {
  const rules = testRules();
  const sides = { count: 2, min: 2, max: 2, uneven: false };
  const party = { max: 2, together: true };
  const queues = [...rules.queues].map(([id, queue]) => {
    return [id, { ...queue, match: { ...queue.match, sides, party } }] as const;
  });
  return { ...rules, queues: new Map(queues) };
}
