import {
  explainMatch,
  explainTicket,
  matchView,
  queueSummary,
  queuesOf,
  ratingPage,
  ticketView,
} from "@yellow-harbor/core";
import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";
import { callerNamed } from "./who.ts";

type QueueRoutes = Pick<
  OperatorRoutes,
  | "queues"
  | "setQueueMode"
  | "tickets"
  | "explainTicket"
  | "matches"
  | "explainMatch"
  | "ratings"
  | "setRating"
  | "beginSeason"
>;

/** Queues as operators see them, what they may do to them, and why a ticket waits or a match was made. */
export const queueHandlers = ({ runtime }: ApiParts): Handlers<QueueRoutes> => ({
  ratings: ({ params: { queue }, query: { account, limit } }) => ratingsOf(runtime, queue, { account, limit }),

  setRating: async ({ params: { queue }, body: { account, rating, deviation }, request }) => {
    const by = callerNamed(request);
    const settled = await runtime.ask({ do: "rating.set", queue, account, rating, deviation, by });
    return "refused" in settled ? settled : ratingsOf(runtime, queue, { account, limit: 1 });
  },

  beginSeason: async ({ params: { queue }, body: { keep, minDeviation }, request }) => {
    const by = callerNamed(request);
    const settled = await runtime.ask({ do: "rating.begin-season", queue, keep, minDeviation, by });
    return "refused" in settled ? settled : ratingsOf(runtime, queue, { account: undefined, limit: 100 });
  },

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

async function ratingsOf(
  runtime: ApiParts["runtime"],
  queue: string,
  asked: { readonly account: string | undefined; readonly limit: number },
) {
  const page = await runtime.query(({ state, rules }, atMs) => {
    const rating = rules.queues.get(queue)?.rating;
    return rating ? ratingPage(state, { queue, rules: rating, ...asked, atMs }) : undefined;
  });
  const detail = `Queue ${queue} rates nobody, or is not there; give it \`rating\` in the configuration.`;
  return page ?? { refused: problem("queue-unknown", detail) };
}
