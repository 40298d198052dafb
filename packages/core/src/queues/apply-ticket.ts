import { clearDeadline, hasDeadline, setDeadline } from "../deadlines/index.ts";
import { isSearching, queueOf, type Ticket } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";

export function openTicket(state: QueuesPart, ticket: Ticket, at: number): void {
  for (const { id } of ticket.players) state.queues.byPlayer.set(id, ticket.id);
  queueOf(state.queues, ticket.queue).tickets.add(ticket.id);
  replaceTicket(state, ticket, at);
}

export function replaceTicket(state: QueuesPart, ticket: Ticket, at: number): void {
  state.derived.queueCounts.change(ticket.queue, state.queues.tickets.get(ticket.id), ticket);
  state.queues.tickets.set(ticket.id, ticket);
  state.derived.waiting.note(ticket.queue, ticket.id);
  // While its players are asked about a match, nobody's search runs out.
  if (ticket.untilMs === null || ticket.asked !== undefined) clearDeadline(state.deadlines, "ticket-end", ticket.id);
  else setDeadline(state.deadlines, "ticket-end", ticket.id, ticket.untilMs);
  if (isSearching(ticket)) passSoon(state, ticket.queue, at);
}

/** A pass that is to come anyway is soon enough; where nobody has ever searched none is needed. */
export function passSoon(state: QueuesPart, queue: string, at: number): void {
  if (!hasDeadline(state.deadlines, "queue-pass", queue)) setDeadline(state.deadlines, "queue-pass", queue, at);
}

export function closeTicket(state: QueuesPart, id: string): Ticket | undefined {
  const { tickets, byPlayer } = state.queues;
  const ticket = tickets.get(id);
  if (!ticket) return undefined;
  tickets.delete(id);
  state.derived.queueCounts.change(ticket.queue, ticket, undefined);
  for (const player of ticket.players) if (byPlayer.get(player.id) === id) byPlayer.delete(player.id);
  const queue = queueOf(state.queues, ticket.queue);
  queue.tickets.delete(id);
  state.derived.waiting.note(ticket.queue, id);
  clearDeadline(state.deadlines, "ticket-end", id);
  return ticket;
}
