import type { Command } from "../model/command.ts";
import type { TestHarbor } from "./test-harbor.ts";

export type Searching = "search" | "accept" | "decline" | "cancel" | "fill" | "no-fill" | "pause" | "open";
const SEARCHED = ["pairs", "confirming-pairs", "backfilled-pairs", "ended-pairs"];

/** Somebody searches, answers, or has a queue looked after. */
export function search(
  test: TestHarbor,
  player: string,
  { how, skill }: { readonly how: Searching; readonly skill: number },
): void {
  const { queues } = test.harbor.state;
  const match = queues.tickets.get(queues.byPlayer.get(player) ?? "")?.asked ?? "m_none";
  const queue = SEARCHED[skill % SEARCHED.length] ?? "pairs";
  // Some search in several queues at once.
  const also = skill % 3 === 0 ? { also: SEARCHED } : {};
  const commands: Record<typeof how, Command> = {
    search: { do: "queue.join", player, args: { queue, ...also, attributes: { skill } } },
    accept: { do: "queue.confirm", player, args: { match, accept: true } },
    decline: { do: "queue.confirm", player, args: { match, accept: false } },
    cancel: { do: "queue.cancel", player, args: {} },
    fill: { do: "queue.backfill", player, args: { wanted: true } },
    "no-fill": { do: "queue.backfill", player, args: { wanted: false } },
    pause: { do: "queue.set-mode", queue, mode: "paused" },
    open: { do: "queue.set-mode", queue, mode: "open" },
  };
  // Answers that come one by one seldom come together: half of the time the others answer alike.
  const others = how === "accept" && skill % 2 === 0 ? (queues.matches.get(match)?.tickets ?? []) : [];
  for (const { id } of others.flatMap(({ players }) => players)) {
    test.run({ do: "queue.confirm", player: id, args: { match, accept: true } });
  }
  // What is asked of players here is told by updates alone: the reply is a ticket, no view.
  test.run(commands[how]);
}
