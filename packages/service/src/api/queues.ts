import { explainMatch, explainTicket, matchView, queueSummary, queuesOf, ticketView } from "@yellow-harbor/core";
import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

type QueueRoutes = Pick<
  OperatorRoutes,
  "queues" | "setQueueMode" | "tickets" | "explainTicket" | "matches" | "explainMatch"
>;

/** Queues as operators see them, what they may do to them, and why a ticket waits or a match was made. */
export const queueHandlers = ({ runtime }: ApiParts): Handlers<QueueRoutes> => ({
  queues: () =>
    runtime.query(({ state, rules }) => ({
      queues: [...rules.queues.keys()].map((name) => queueSummary(state, rules, name)),
    })),

  setQueueMode: async ({ params: { queue }, body: { mode } }) => {
    const settled = await runtime.ask({ do: "queue.set-mode", queue, mode });
    if ("refused" in settled) return settled;
    return runtime.query(({ state, rules }) => queueSummary(state, rules, queue));
  },

  tickets: ({ query: { queue, limit } }) =>
    runtime.query(({ state }) => {
      const tickets = [...state.queues.tickets.values()].filter(
        (one) => queue === undefined || queuesOf(one).includes(queue),
      );
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
