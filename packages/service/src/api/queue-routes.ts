import { explainMatch, explainTicket, matchView, queueSummary, ticketView } from "@yellow-harbor/core";
import {
  ConfigName,
  MatchExplanation,
  MatchList,
  MatchQuery,
  type Problem,
  problem,
  QueueList,
  QueueSummary,
  QueuesReloaded,
  SetQueueMode,
  TicketExplanation,
  TicketList,
  TicketQuery,
} from "@yellow-harbor/protocol";
import { z } from "zod";
import type { ConfigFault } from "../config/load.ts";
import { rulesOf } from "../config/rules.ts";
import type { Config } from "../config/schema.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const tags = ["queues"];
const security = [{ operatorToken: [] }];
const Id = z.string().max(64);

/** Queues as operators see them, what they may do to them, and why a ticket waits or a match was made. */
export function queueRoutes(api: Api, { runtime, reload, config }: ApiParts): void {
  const listSchema = { tags, security, summary: "The queues, in numbers.", response: { 200: QueueList } };
  api.get("/v1/queues", { schema: listSchema }, async () =>
    runtime.query(({ state, rules }) => ({
      queues: [...rules.queues.keys()].map((name) => queueSummary(state, rules, name)),
    })),
  );

  const modeSchema = {
    tags,
    security,
    params: z.object({ queue: ConfigName }),
    body: SetQueueMode,
    summary: "Pause a queue, drain it, or open it again. Tickets are kept.",
    response: { 200: QueueSummary },
  };
  api.post("/v1/queues/:queue/mode", { schema: modeSchema }, async ({ params: { queue }, body: { mode } }, reply) => {
    const settled = await runtime.ask({ do: "queue.set-mode", queue, mode });
    if ("refused" in settled) return sendProblem(reply, settled.refused);
    return runtime.query(({ state, rules }) => queueSummary(state, rules, queue));
  });

  const reloadSchema = {
    tags,
    security,
    response: { 200: QueuesReloaded },
    summary: "Read the queues of the configuration file again. Tickets are kept; a file with faults changes nothing.",
  };
  api.post("/v1/queues/reload", { schema: reloadSchema }, async (_request, reply) => {
    const loaded = reload?.();
    if (!loaded) return sendProblem(reply, problem("config-unreadable", "The service was not started from a file."));
    if (!loaded.ok) return sendProblem(reply, faultyConfig(loaded.file, loaded.faults));
    const settled = await runtime.changeQueues(rulesOf(loaded.config).queues);
    if ("refused" in settled) return sendProblem(reply, settled.refused);
    if (!("changed" in settled)) throw new Error("nothing is known of the change");
    return { ...settled, needRestart: otherParts(config, loaded.config) };
  });

  const ticketsSchema = {
    tags,
    security,
    querystring: TicketQuery,
    response: { 200: TicketList },
    summary: "Tickets, the longest waiting first.",
  };
  api.get("/v1/tickets", { schema: ticketsSchema }, async ({ query: { queue, limit } }) =>
    runtime.query(({ state }) => {
      const tickets = [...state.queues.tickets.values()].filter((one) => queue === undefined || one.queue === queue);
      tickets.sort((a, b) => (a.sinceMs ?? Infinity) - (b.sinceMs ?? Infinity));
      return { tickets: tickets.slice(0, limit).map((ticket) => ticketView(state, ticket)), total: tickets.length };
    }),
  );

  const ticketSchema = {
    tags,
    security,
    params: z.object({ ticket: Id }),
    response: { 200: TicketExplanation },
    summary: "Why a ticket is still waiting, with the numbers it was made from.",
  };
  api.get("/v1/tickets/:ticket/explain", { schema: ticketSchema }, async ({ params: { ticket } }, reply) => {
    const why = await runtime.query(({ state, rules }, atMs) => {
      // A player stands for the ticket it searches with.
      return explainTicket(state, rules, state.queues.byPlayer.get(ticket) ?? ticket, atMs);
    });
    const detail = `There is no ticket ${ticket}, nor a player who searches; \`yh queue show NAME\` lists the tickets.`;
    return why ?? sendProblem(reply, problem("ticket-unknown", detail));
  });

  const matchesSchema = {
    tags,
    security,
    querystring: MatchQuery,
    response: { 200: MatchList },
    summary: "The matches that are remembered, the newest first.",
  };
  api.get("/v1/matches", { schema: matchesSchema }, async ({ query: { queue, limit } }) =>
    runtime.query(({ state }) => {
      const made = [...state.queues.matches.values()].filter((one) => queue === undefined || one.queue === queue);
      return { matches: made.reverse().slice(0, limit).map(matchView) };
    }),
  );

  const matchSchema = {
    tags,
    security,
    params: z.object({ match: Id }),
    response: { 200: MatchExplanation },
    summary: "Why a match was made of these, in which sides, with what quality. The last ones are kept.",
  };
  api.get("/v1/matches/:match/explain", { schema: matchSchema }, async ({ params: { match } }, reply) => {
    // A room stands for the match that it was made for, until it plays.
    const why = await runtime.query(({ state }) => {
      const made = [...state.queues.matches.values()].find(({ id, room }) => id === match || room === match);
      return made && explainMatch(state, made.id);
    });
    const detail = `Match ${match} is not known, or not any more; the last hundred of each queue are kept.`;
    return why ?? sendProblem(reply, problem("match-gone", detail));
  });
}

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
