import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import { type BotOptions, pause } from "./bot.ts";

const DECLINES = 0.06;
const REGIONS = ["north-quay", "south-quay", "far-light"];

/** Searches in the queue for crews until the bot is in a room; false when nothing came of it. */
export async function findCrew(player: PlayerClient, options: BotOptions): Promise<boolean> {
  try {
    await player.search({ queue: "crews", ...brought(options.chance) });
    await untilMatched(player, options);
  } catch (error) {
    // Whoever let a match go waits before it may search again, and a match may be over before the answer.
    if (!(error instanceof ProblemError)) throw error;
  }
  return player.state.room !== undefined;
}

/** What a bot brings to a search. */
export const brought = (chance: () => number) => ({
  attributes: { skill: 1_350 + Math.round(300 * chance()) },
  ...latencies(chance),
});

/** Waits for a match while the bot searches, and answers for the one that is found. */
export async function untilMatched(player: PlayerClient, options: BotOptions): Promise<void> {
  const { chance, signal } = options;
  while (!signal.aborted && player.state.room === undefined && player.ticket !== undefined) {
    await pause(options, 1_200);
    const { confirm } = player.ticket ?? {};
    if (confirm === undefined || confirm.accepted.includes(player.id)) continue;
    await player.confirmMatch({ match: confirm.match, accept: chance() > DECLINES });
  }
}

/** North Quay is where most live. */
function latencies(chance: () => number): { latencyMs: Record<string, number> } {
  const home = chance() < 0.6 ? 0 : Math.floor(chance() * REGIONS.length);
  const ms = (n: number) => Math.round((n === home ? 12 : 45) + 30 * chance());
  return { latencyMs: Object.fromEntries(REGIONS.map((region, n) => [region, ms(n)])) };
}
