import { clearDeadline, hasDeadline, setDeadline } from "../deadlines/index.ts";
import { isSearching, queueOf, queuesOf, type Ticket } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";

export function openTicket(state: QueuesPart, ticket: Ticket, at: number): void {
  for (const { id } of ticket.players) state.queues.byPlayer.set(id, ticket.id);
  for (const queue of queuesOf(ticket)) queueOf(state.queues, queue).tickets.add(ticket.id);
  replaceTicket(state, ticket, at);
}

export function replaceTicket(state: QueuesPart, ticket: Ticket, at: number): void {
  const queues = queuesOf(ticket);
  state.derived.queueCounts.change(state.queues.tickets.get(ticket.id), ticket);
  state.queues.tickets.set(ticket.id, ticket);
  for (const queue of queues) state.derived.waiting.note(queue, ticket.id);
  // While its players are asked about a match, nobody's search runs out.
  if (ticket.untilMs === null || ticket.asked !== undefined) clearDeadline(state.deadlines, "ticket-end", ticket.id);
  else setDeadline(state.deadlines, "ticket-end", ticket.id, ticket.untilMs);
  if (isSearching(ticket)) for (const queue of queues) passSoon(state, queue, at);
}

/** A pass that is to come anyway is soon enough; where nobody has ever searched none is needed. */
export function passSoon(state: QueuesPart, queue: string, at: number): void {
  if (!hasDeadline(state.deadlines, "queue-pass", queue)) setDeadline(state.deadlines, "queue-pass", queue, at);
}

/** One of several queues has no place for it any more. */
export function narrowTicket(state: QueuesPart, id: string, dropped: string, at: number): void {
  const ticket = state.queues.tickets.get(id);
  const [queue, ...also] = ticket ? queuesOf(ticket).filter((one) => one !== dropped) : [];
  if (ticket === undefined || queue === undefined) return;
  leaveQueue(state, dropped, id);
  const { also: _, ...rest } = ticket;
  replaceTicket(state, { ...rest, queue, ...(also.length > 0 && { also }) }, at);
}

function leaveQueue(state: QueuesPart, queue: string, ticket: string): void {
  queueOf(state.queues, queue).tickets.delete(ticket);
  state.derived.waiting.note(queue, ticket);
}

export function closeTicket(state: QueuesPart, id: string): Ticket | undefined {
  const { tickets, byPlayer } = state.queues;
  const ticket = tickets.get(id);
  if (!ticket) return undefined;
  tickets.delete(id);
  state.derived.queueCounts.change(ticket, undefined);
  for (const player of ticket.players) if (byPlayer.get(player.id) === id) byPlayer.delete(player.id);
  for (const queue of queuesOf(ticket)) leaveQueue(state, queue, id);
  clearDeadline(state.deadlines, "ticket-end", id);
  return ticket;
}
