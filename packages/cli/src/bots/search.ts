import type { QueueSummary } from "@yellow-harbor/protocol";
import { type Bot, pause } from "./bot.ts";

const LOOK_MS = 700;
/** Some find that they have something else to do. */
const DECLINES = 0.05;
const GIVES_UP = 0.01;

/** Searches in some queue of the lobby until it is in a room; false when there is none, or nothing came of it. */
export async function searchInQueue(bot: Bot): Promise<boolean> {
  const { player, chance, signal, tally } = bot;
  const { queues } = await player.ask("queue.list", {});
  const open = queues.filter(({ mode, requires }) => mode === "open" && requires.others.length === 0);
  const queue = open[Math.floor(chance() * open.length)];
  if (queue === undefined) return false;
  await player.search({ queue: queue.id, ...broughtBy(queue, chance) });
  tally.searched += 1;
  while (!signal.aborted && player.state.room === undefined && player.ticket !== undefined) {
    await pause(bot, LOOK_MS);
    const { confirm } = player.ticket ?? {};
    // Others answer at the same time: what it is asked about may be over already, which is no fault.
    if (confirm && !confirm.accepted.includes(player.id)) {
      await player.confirmMatch({ match: confirm.match, accept: chance() > DECLINES }).catch(() => undefined);
    } else if (chance() < GIVES_UP) await player.cancelSearch().catch(() => undefined);
  }
  if (player.state.room === undefined) return false;
  tally.matched += 1;
  return true;
}

/** Numbers about 1,500, most of them near, and one region that is near and others that are not. */
function broughtBy({ requires: { numbers, regions } }: QueueSummary, chance: () => number) {
  const middling = () => Math.round(1_200 + 200 * (chance() + chance() + chance()));
  const home = Math.floor(chance() * regions.length);
  return {
    attributes: Object.fromEntries(numbers.map((name) => [name, middling()])),
    latencyMs: Object.fromEntries(
      regions.map((region, n) => [region, Math.round((n === home ? 15 : 50) + 35 * chance())]),
    ),
  };
}
