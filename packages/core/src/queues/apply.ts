import { clearDeadline, hasDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import { countSearching } from "../lobbies/index.ts";
import { remember } from "./estimate.ts";
import type { QueueEvent } from "./events.ts";
import { isSearching, type MadeMatch, queueOf, type Ticket } from "./state.ts";
import { noteChange } from "./waiting-index.ts";

/** From a match that came to nothing until its queue makes another. */
const TRY_AGAIN_MS = 3_000;

/** So many matches are kept to be asked about. */
const KEPT = 100;

export function applyQueue(state: HarborState, event: QueueEvent, at: number): void {
  const queue = queueOf(state.queues, event.queue);
  switch (event.kind) {
    case "queue.ticket-opened":
      return open(state, event.ticket, at);
    case "queue.agreed": {
      const ticket = state.queues.tickets.get(event.ticket);
      if (ticket === undefined) return;
      const { player: id, attributes, latencyMs, search } = event;
      const players = ticket.players.map((one) =>
        one.id === id ? { ...one, attributes, latencyMs, agreed: true } : one,
      );
      return replace(state, { ...ticket, players, ...search }, at);
    }
    case "queue.held-changed": {
      const ticket = state.queues.tickets.get(event.ticket);
      if (ticket) replace(state, { ...ticket, held: event.held }, at);
      return;
    }
    case "queue.ticket-ended":
      end(state, event.ticket, at);
      return;
    case "queue.matched":
      return match(state, event, at);
    case "queue.settled":
      return settle(state, event.match, { room: event.room, forming: false });
    case "queue.forgone": {
      const made = state.queues.matches.get(event.match);
      return settle(state, event.match, { gone: [...(made?.gone ?? []), event.player] });
    }
    case "queue.undone": {
      const made = state.queues.matches.get(event.match);
      if (made?.room != null) state.queues.byRoom.delete(made.room);
      state.queues.matches.delete(event.match);
      queue.matches -= 1;
      queue.recent = queue.recent.filter((id) => id !== event.match);
      // Not at once: what was missing, such as a free instance, is still missing now.
      setDeadline(state.deadlines, "queue-pass", event.queue, at + TRY_AGAIN_MS);
      return;
    }
    case "queue.mode-set":
      queue.mode = event.mode;
      return passSoon(state, event.queue, at);
    default:
      assertNever(event);
  }
}

/** The room that a match has become. */
export function linkRoom(state: HarborState, match: string, room: string): void {
  state.queues.byRoom.set(room, match);
  settle(state, match, { room });
}

/** Whoever was here is away after a restart: every ticket is held until they are back. */
export function holdTickets(state: HarborState, at: number): void {
  for (const ticket of state.queues.tickets.values()) replace(state, { ...ticket, held: true }, at);
}

function settle(state: HarborState, id: string, change: Partial<MadeMatch>): void {
  const { matches, byRoom } = state.queues;
  const made = matches.get(id);
  if (!made) return;
  matches.set(id, { ...made, ...change });
  if (change.forming === false && made.room !== null) byRoom.delete(made.room);
}

function open(state: HarborState, ticket: Ticket, at: number): void {
  for (const { id } of ticket.players) state.queues.byPlayer.set(id, ticket.id);
  queueOf(state.queues, ticket.queue).tickets.add(ticket.id);
  countSearching(state, ticket.lobby, ticket.players.length, at);
  replace(state, ticket, at);
}

function replace(state: HarborState, ticket: Ticket, at: number): void {
  state.queues.tickets.set(ticket.id, ticket);
  noteChange(queueOf(state.queues, ticket.queue), ticket.id);
  if (ticket.untilMs === null) clearDeadline(state.deadlines, "ticket-end", ticket.id);
  else setDeadline(state.deadlines, "ticket-end", ticket.id, ticket.untilMs);
  if (isSearching(ticket)) passSoon(state, ticket.queue, at);
}

/** A pass that is to come anyway is soon enough. */
function passSoon(state: HarborState, queue: string, at: number): void {
  if (!hasDeadline(state.deadlines, "queue-pass", queue)) setDeadline(state.deadlines, "queue-pass", queue, at);
}

function end(state: HarborState, id: string, at: number): Ticket | undefined {
  const { tickets, byPlayer } = state.queues;
  const ticket = tickets.get(id);
  if (!ticket) return undefined;
  tickets.delete(id);
  for (const player of ticket.players) if (byPlayer.get(player.id) === id) byPlayer.delete(player.id);
  const queue = queueOf(state.queues, ticket.queue);
  queue.tickets.delete(id);
  noteChange(queue, id);
  clearDeadline(state.deadlines, "ticket-end", id);
  countSearching(state, ticket.lobby, -ticket.players.length, at);
  return ticket;
}

function match(state: HarborState, event: Extract<QueueEvent, { kind: "queue.matched" }>, at: number): void {
  const { match: id, queue: name, region, sides, quality } = event;
  const queue = queueOf(state.queues, name);
  const tickets = event.tickets.flatMap((ticket) => end(state, ticket, at) ?? []);
  for (const { players, sinceMs } of tickets) {
    queue.waits = remember(queue.waits, players.length, at - (sinceMs ?? at));
  }
  const made: MadeMatch = {
    id,
    queue: name,
    atMs: at,
    region,
    tickets,
    sides,
    quality,
    gone: [],
    room: null,
    forming: true,
  };
  state.queues.matches.set(id, made);
  queue.matches += 1;
  queue.recent = [...queue.recent, id];
  for (const old of queue.recent.slice(0, -KEPT))
    if (!state.queues.matches.get(old)?.forming) state.queues.matches.delete(old);
  queue.recent = queue.recent.filter((one) => state.queues.matches.has(one));
}
