import { z } from "zod";
import { ConfigName } from "../ids.ts";
import {
  MatchExplanation,
  MatchList,
  MatchQuery,
  QueueList,
  QueueSummary,
  SetQueueMode,
  TicketExplanation,
  TicketList,
  TicketQuery,
} from "../queues.ts";
import type { HttpRoutes } from "./route.ts";

const tag = "queues";
const Id = z.string().max(64);

/** Queues as operators see them, what they may do to them, and why a ticket waits or a match was made. */
export const queueRoutes = {
  queues: {
    method: "GET",
    path: "/v1/queues",
    tag,
    needs: "look",
    summary: "The queues, in numbers.",
    reply: QueueList,
  },
  setQueueMode: {
    method: "POST",
    path: "/v1/queues/:queue/mode",
    tag,
    needs: "operate",
    summary: "Pause a queue, drain it, or open it again. Tickets are kept.",
    params: z.object({ queue: ConfigName }),
    body: SetQueueMode,
    example: { mode: "paused" },
    reply: QueueSummary,
  },
  tickets: {
    method: "GET",
    path: "/v1/tickets",
    tag,
    needs: "look",
    summary: "Tickets, the longest waiting first.",
    query: TicketQuery,
    reply: TicketList,
  },
  explainTicket: {
    method: "GET",
    path: "/v1/tickets/:ticket/explain",
    tag,
    needs: "look",
    summary: "Why a ticket is still waiting, with the numbers it was made from.",
    params: z.object({ ticket: Id.meta({ description: "Id of a ticket, or of a player who searches." }) }),
    reply: TicketExplanation,
  },
  matches: {
    method: "GET",
    path: "/v1/matches",
    tag,
    needs: "look",
    summary: "The matches that are remembered, the newest first.",
    query: MatchQuery,
    reply: MatchList,
  },
  explainMatch: {
    method: "GET",
    path: "/v1/matches/:match/explain",
    tag,
    needs: "look",
    summary: "Why a match was made of these, in which sides, with what quality. The last ones are kept.",
    params: z.object({ match: Id.meta({ description: "Id of a match, or of the room that it became." }) }),
    reply: MatchExplanation,
  },
} as const satisfies HttpRoutes;
