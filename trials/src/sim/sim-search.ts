import type { SearchMove } from "./script.ts";
import type { Shadow } from "./shadow.ts";
import type { Asking, SimPlayer } from "./sim-player.ts";

const QUEUES = ["pairs", "confirming-pairs", "ended-pairs"];

/** A player searches, answers, or stops. */
export function search(
  player: SimPlayer,
  others: readonly SimPlayer[],
  { state: { queues } }: Shadow,
  { what, n }: { readonly what: SearchMove; readonly n: number },
): void {
  const { id } = player;
  if (id === undefined) return;
  const match = player.ticket?.confirm?.match ?? "m_none";
  if (what === "accord") {
    // Answers that come one by one seldom come together.
    const asked = queues.matches.get(match)?.tickets.flatMap(({ players }) => players.map((one) => one.id)) ?? [];
    for (const one of others) {
      if (one.id !== undefined && asked.includes(one.id)) {
        one.ask({ do: "queue.confirm", player: one.id, args: { match, accept: true } });
      }
    }
    return;
  }
  const also = n % 4 === 0 ? { also: QUEUES } : {};
  const commands: Record<Exclude<SearchMove, "accord">, Asking> = {
    search: {
      do: "queue.join",
      player: id,
      args: { queue: QUEUES[n % 3] ?? "pairs", ...also, attributes: { skill: n } },
    },
    accept: { do: "queue.confirm", player: id, args: { match, accept: true } },
    decline: { do: "queue.confirm", player: id, args: { match, accept: false } },
    cancel: { do: "queue.cancel", player: id, args: {} },
    fill: { do: "queue.backfill", player: id, args: { wanted: true } },
    "no-fill": { do: "queue.backfill", player: id, args: { wanted: false } },
    leave: { do: "room.leave", player: id, args: {} },
  };
  player.ask(commands[what]);
}
