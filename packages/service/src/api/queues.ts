import { explainMatch, explainTicket, matchView, queueSummary, ticketView } from "@yellow-harbor/core";
import { type OperatorRoutes, type Problem, problem } from "@yellow-harbor/protocol";
import type { ConfigFault } from "../config/load.ts";
import { rulesOf } from "../config/rules.ts";
import type { Config } from "../config/schema.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type QueueRoutes = Pick<
  OperatorRoutes,
  "queues" | "setQueueMode" | "reloadQueues" | "tickets" | "explainTicket" | "matches" | "explainMatch"
>;

/** Queues as operators see them, what they may do to them, and why a ticket waits or a match was made. */
export const queueHandlers = ({ runtime, reload, config }: ApiParts): Handlers<QueueRoutes> => ({
  queues: () =>
    runtime.query(({ state, rules }) => ({
      queues: [...rules.queues.keys()].map((name) => queueSummary(state, rules, name)),
    })),

  setQueueMode: async ({ params: { queue }, body: { mode } }) => {
    const settled = await runtime.ask({ do: "queue.set-mode", queue, mode });
    if ("refused" in settled) return settled;
    return runtime.query(({ state, rules }) => queueSummary(state, rules, queue));
  },

  reloadQueues: async () => {
    const loaded = reload?.();
    if (!loaded) return { refused: problem("config-unreadable", "The service was not started from a file.") };
    if (!loaded.ok) return { refused: faultyConfig(loaded.file, loaded.faults) };
    const settled = await runtime.changeQueues(rulesOf(loaded.config, runtime.rules.codeKey).queues);
    if ("refused" in settled) return settled;
    return { ...settled, needRestart: otherParts(config, loaded.config) };
  },

  tickets: ({ query: { queue, limit } }) =>
    runtime.query(({ state }) => {
      const tickets = [...state.queues.tickets.values()].filter((one) => queue === undefined || one.queue === queue);
      tickets.sort((a, b) => (a.sinceMs ?? Infinity) - (b.sinceMs ?? Infinity));
      return { tickets: tickets.slice(0, limit).map((ticket) => ticketView(state, ticket)), total: tickets.length };
    }),

  explainTicket: async ({ params: { ticket } }) => {
    const why = await runtime.query(({ state, rules }, atMs) => {
      // A player stands for the ticket it searches with.
      return explainTicket(state, rules, state.queues.byPlayer.get(ticket) ?? ticket, atMs);
    });
    const detail = `There is no ticket ${ticket}, nor a player who searches; \`yh queue show NAME\` lists the tickets.`;
    return why ?? { refused: problem("ticket-unknown", detail) };
  },

  matches: ({ query: { queue, limit } }) =>
    runtime.query(({ state }) => {
      const made = [...state.queues.matches.values()].filter((one) => queue === undefined || one.queue === queue);
      return { matches: made.reverse().slice(0, limit).map(matchView) };
    }),

  explainMatch: async ({ params: { match } }) => {
    // A room stands for the match that it was made for, until it plays.
    const why = await runtime.query(({ state }) => {
      const made = [...state.queues.matches.values()].find(({ id, room }) => id === match || room === match);
      return made && explainMatch(state, made.id);
    });
    const detail = `Match ${match} is not known, or not any more; the last hundred of each queue are kept.`;
    return why ?? { refused: problem("match-gone", detail) };
  },
});

function faultyConfig(file: string, faults: readonly ConfigFault[]): Problem {
  const fields = faults.map(({ line, column, path, message }) => ({ path: `${line}:${column} ${path}`, message }));
  const [first] = faults;
  const detail = `${file}:${first?.line}:${first?.column} ${first?.path} ${first?.message}. Nothing was changed; \`yh config check\` names all faults.`;
  return problem("config-invalid", detail, { fields });
}

/** Where the service listens and keeps its data may have been said on the command line. */
const SAID_ELSEWHERE = new Set(["queues", "listen", "data"]);

const otherParts = (running: Config, read: Config): string[] =>
  (Object.keys(read) as (keyof Config)[]).filter(
    (part) => !SAID_ELSEWHERE.has(part) && JSON.stringify(running[part]) !== JSON.stringify(read[part]),
  );
