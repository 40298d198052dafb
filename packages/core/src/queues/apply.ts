import { assertNever } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { queueOf } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";
import { applyBackfill } from "./apply-backfill.ts";
import { applyMatch, extendAsking } from "./apply-match.ts";
import { closeTicket, narrowTicket, openTicket, passSoon, replaceTicket } from "./apply-ticket.ts";
import { pauseKey } from "./parts.ts";

export function applyQueue(state: QueuesPart, event: QueueEvent, at: number): void {
  const queue = queueOf(state.queues, event.queue);
  switch (event.kind) {
    case "queue.ticket-opened":
      return openTicket(state, event.ticket, at);
    case "queue.agreed": {
      const ticket = state.queues.tickets.get(event.ticket);
      if (ticket === undefined) return;
      const { player: id, attributes, latencyMs, search } = event;
      const players = ticket.players.map((one) =>
        one.id === id ? { ...one, attributes, latencyMs, agreed: true } : one,
      );
      return replaceTicket(state, { ...ticket, players, ...search }, at);
    }
    case "queue.held-changed": {
      const ticket = state.queues.tickets.get(event.ticket);
      if (ticket) replaceTicket(state, { ...ticket, held: event.held }, at);
      return;
    }
    case "queue.ticket-narrowed":
      return narrowTicket(state, event.ticket, event.queue, at);
    case "queue.ticket-ended":
      closeTicket(state, event.ticket);
      return;
    case "queue.search-paused":
      return pause(state, event, at);
    case "queue.mode-set":
      queue.mode = event.mode;
      return passSoon(state, event.queue, at);
    case "queue.matched":
    case "queue.accepted":
    case "queue.confirmed":
    case "queue.match-started":
    case "queue.forfeited":
    case "queue.undone":
      return applyMatch(state, event, at);
    case "queue.backfill-started":
    case "queue.backfill-ended":
    case "queue.backfilled":
      return applyBackfill(state, event, at);
    // Its room is closed by what follows.
    case "queue.room-ended":
      return;
    default:
      assertNever(event);
  }
}

/** Whoever was here is away after a restart: every ticket is held until they are back, and nobody is late with an answer. */
export function holdTickets(state: QueuesPart, at: number): void {
  for (const ticket of state.queues.tickets.values()) replaceTicket(state, { ...ticket, held: true }, at);
  extendAsking(state, at);
}

/** After its end a pause only counts how many there were, and that no longer than a day. */
const PAUSE_KEPT_MS = 86_400_000;

function pause(
  state: QueuesPart,
  { player, times, untilMs, leaver }: Extract<QueueEvent, { kind: "queue.search-paused" }>,
  at: number,
): void {
  const pauses = leaver === undefined ? state.queues.pauses : state.queues.leavers;
  const key = leaver ?? pauseKey(state, player);
  // The newest stands last.
  pauses.delete(key);
  pauses.set(key, { times, untilMs });
  for (const [known, { untilMs: endsAtMs }] of pauses) {
    if (endsAtMs + PAUSE_KEPT_MS > at) break;
    pauses.delete(known);
  }
}
