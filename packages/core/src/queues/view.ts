import type { MatchView, OwnNews, QueueSummary, TicketView } from "@yellow-harbor/protocol";
import { assertNever } from "../harbor/decision.ts";
import type { Push } from "../harbor/push.ts";
import type { HarborRules } from "../harbor/rules.ts";
import type { HarborState } from "../harbor/state.ts";
import { estimateFor } from "./estimate.ts";
import type { QueueEvent } from "./events.ts";
import { isSearching, type MadeMatch, type Ticket } from "./state.ts";

export function ticketView(state: HarborState, ticket: Ticket): TicketView {
  const { id, queue, leader, players, sinceMs, untilMs, held } = ticket;
  const estimate = estimateFor(state.queues.byName.get(queue)?.waits ?? [], players.length);
  return {
    ...{ id, queue, leader },
    players: players.map((player) => ({ id: player.id, name: player.name, agreed: player.agreed })),
    state: sinceMs === null ? "asking" : held ? "held" : "searching",
    ...(sinceMs !== null && { sinceMs }),
    ...(untilMs !== null && { untilMs }),
    ...(estimate && { estimate }),
  };
}

export function queueSummary(state: HarborState, rules: HarborRules, id: string): QueueSummary {
  const { title, lobby } = rules.queues.get(id) ?? { title: id, lobby: "" };
  const queue = state.queues.byName.get(id);
  const tickets = [...(queue?.tickets ?? [])].flatMap((ticket) => state.queues.tickets.get(ticket) ?? []);
  const searching = tickets.filter(isSearching);
  const oldest = searching.reduce((since, ticket) => Math.min(since, ticket.sinceMs), Number.POSITIVE_INFINITY);
  const lately = latelyOf((queue?.recent ?? []).flatMap((match) => state.queues.matches.get(match) ?? []));
  return {
    ...{ id, title, lobby, mode: queue?.mode ?? "open", tickets: searching.length, matches: queue?.matches ?? 0 },
    players: searching.reduce((sum, { players }) => sum + players.length, 0),
    ...(Number.isFinite(oldest) && { oldestSinceMs: oldest }),
    ...(lately && { lately }),
  };
}

function latelyOf(matches: readonly MadeMatch[]): QueueSummary["lately"] {
  const [first] = matches;
  if (!first) return undefined;
  const spread = Object.keys(first.quality.spread).map((attribute) => {
    const sum = matches.reduce((all, { quality }) => all + (quality.spread[attribute] ?? 0), 0);
    return { attribute, mean: Math.round((sum / matches.length) * 10) / 10 };
  });
  return { matches: matches.length, sinceMs: first.atMs, spread };
}

export const matchView = ({ id, queue, atMs, region, tickets, sides, quality, room }: MadeMatch): MatchView => ({
  ...{ id, queue, atMs, region, quality },
  tickets: tickets.map((ticket) => ({
    id: ticket.id,
    players: ticket.players.map((player) => player.id),
    waitedS: (atMs - (ticket.sinceMs ?? atMs)) / 1_000,
  })),
  sides: sides.map((side) => [...side]),
  ...(room !== null && { room }),
});

/** What players have to be told: each of the ticket, by itself. */
export function queuePushes(state: HarborState, event: QueueEvent): Push[] {
  switch (event.kind) {
    case "queue.ticket-opened":
      return changed(state, event.ticket.id);
    case "queue.agreed":
    case "queue.held-changed":
      return changed(state, event.ticket);
    case "queue.ticket-ended": {
      const { ticket, cause, detail, players } = event;
      return players.map((to) => own(to, { kind: "ticket-ended", ticket, cause, detail }));
    }
    case "queue.matched":
      return (state.queues.matches.get(event.match)?.tickets ?? []).flatMap(({ id: ticket, players }) =>
        players.map(({ id }) =>
          own(id, { kind: "ticket-ended", ticket, cause: "matched", detail: "A match was made." }),
        ),
      );
    case "queue.settled":
    case "queue.undone":
    case "queue.forgone":
    case "queue.mode-set":
      return [];
    default:
      return assertNever(event);
  }
}

function changed(state: HarborState, id: string): Push[] {
  const ticket = state.queues.tickets.get(id);
  if (ticket === undefined) return [];
  const view = ticketView(state, ticket);
  return ticket.players.map((player) => own(player.id, { kind: "ticket-changed", ticket: view }));
}

const own = (to: string, news: Exclude<OwnNews, { kind: "boarding-pass" }>): Push => ({ scope: "you", to, news });
