import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { type MadeMatch, queueOf, type Ticket } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";
import { closeTicket, replaceTicket } from "./apply-ticket.ts";
import { remember } from "./estimate.ts";
import { pauseKey } from "./parts.ts";

/** From a match that came to nothing until its queue makes another. */
const TRY_AGAIN_MS = 3_000;

/** So many matches are kept to be asked about. */
const KEPT = 100;

type MatchEvent = Extract<
  QueueEvent,
  { kind: `queue.${"matched" | "accepted" | "confirmed" | "match-started" | "forfeited" | "undone"}` }
>;

export function applyMatch(state: QueuesPart, event: MatchEvent, at: number): void {
  const { matches } = state.queues;
  switch (event.kind) {
    case "queue.matched":
      return make(state, event, at);
    case "queue.accepted": {
      const asking = matches.get(event.match)?.asking;
      if (asking) change(state, event.match, { asking: { ...asking, accepted: [...asking.accepted, event.player] } });
      return;
    }
    case "queue.confirmed": {
      const made = matches.get(event.match);
      if (!made) return;
      const { asking: _, ...standing } = made;
      matches.set(made.id, { ...standing, tickets: conclude(state, made) });
      clearDeadline(state.deadlines, "match-confirm", made.id);
      return;
    }
    case "queue.match-started":
      return settle(state, event);
    case "queue.forfeited":
      return change(state, event.match, { gone: [...(matches.get(event.match)?.gone ?? []), event.player] });
    case "queue.undone":
      return undo(state, event, at);
    default:
      assertNever(event);
  }
}

/** The room that a match has become. */
export function linkRoom(state: QueuesPart, match: string, room: string): void {
  state.queues.byRoom.set(room, match);
  const { regions = [] } = state.queues.matches.get(match) ?? {};
  if (regions.length > 0) state.queues.regions.set(room, regions);
  change(state, match, { room });
}

/** A player who has left waits for nothing. */
export function forgetPause({ queues }: QueuesPart, player: string): void {
  queues.pauses.delete(player);
  queues.leavers.delete(player);
}

/** What its queue knew of a room that has closed. */
export function unlinkRoom({ queues, deadlines }: QueuesPart, room: string): void {
  queues.rooms.delete(room);
  queues.backfills.delete(room);
  queues.regions.delete(room);
  clearDeadline(deadlines, "backfill-end", room);
}

/** Nobody could answer while the service was down: everybody has the whole time again. */
export function extendAsking(state: QueuesPart, at: number): void {
  for (const { id, asking, atMs } of state.queues.matches.values()) {
    if (!asking) continue;
    const untilMs = at + (asking.untilMs - atMs);
    change(state, id, { asking: { ...asking, untilMs }, atMs: at });
    setDeadline(state.deadlines, "match-confirm", id, untilMs);
  }
}

function change(state: QueuesPart, id: string, changes: Partial<MadeMatch>): void {
  const made = state.queues.matches.get(id);
  if (made) state.queues.matches.set(id, { ...made, ...changes });
}

function make(state: QueuesPart, event: Extract<QueueEvent, { kind: "queue.matched" }>, at: number): void {
  const { match: id, queue: name, region, sides, roles, quality, confirmByMs, into } = event;
  const queue = queueOf(state.queues, name);
  const tickets = event.tickets.flatMap((ticket) => state.queues.tickets.get(ticket) ?? []);
  const made: MadeMatch = {
    id,
    queue: name,
    atMs: at,
    region,
    regions: event.regions ?? [],
    tickets,
    sides,
    ...(roles && { roles }),
    quality,
    gone: [],
    room: null,
    forming: true,
    ...(into !== undefined && { into }),
    ...(confirmByMs !== undefined && { asking: { untilMs: confirmByMs, accepted: [] } }),
  };
  state.queues.matches.set(id, made);
  const backfill = state.queues.backfills.get(into ?? "");
  if (backfill) state.queues.backfills.set(backfill.room, { ...backfill, match: id });
  if (confirmByMs === undefined) conclude(state, made);
  else {
    for (const ticket of tickets) replaceTicket(state, { ...ticket, asked: id, askedIn: name }, at);
    setDeadline(state.deadlines, "match-confirm", id, confirmByMs);
  }
  queue.matches += 1;
  const all = [...queue.recent, id];
  queue.recent = all.slice(-KEPT);
  for (const old of all.slice(0, -KEPT)) forget(state, old);
}

/** One that is still forming is forgotten once it is settled. */
function forget({ queues }: QueuesPart, id: string): void {
  if (!queues.matches.get(id)?.forming) queues.matches.delete(id);
}

/** The match stands: its tickets have found what they searched for. They are returned as they were when it was made. */
function conclude(state: QueuesPart, { tickets }: MadeMatch): Ticket[] {
  for (const { id } of tickets) closeTicket(state, id);
  return [...tickets];
}

function settle(
  state: QueuesPart,
  { match: id, room, watchesLeavers, accounts }: Extract<MatchEvent, { kind: "queue.match-started" }>,
): void {
  const { matches, byRoom, rooms, pauses } = state.queues;
  const made = matches.get(id);
  if (!made) return;
  change(state, id, { room, forming: false });
  const queue = queueOf(state.queues, made.queue);
  // A match that comes to nothing says nothing of how long one waits.
  for (const { players, sinceMs } of made.tickets)
    queue.waits = remember(queue.waits, players.length, made.atMs - (sinceMs ?? made.atMs));
  if (!queue.recent.includes(id)) forget(state, id);
  byRoom.delete(room);
  for (const { players } of made.tickets) for (const player of players) pauses.delete(pauseKey(state, player.id));
  if (watchesLeavers)
    rooms.set(room, {
      room,
      queue: made.queue,
      region: made.region,
      tickets: made.tickets,
      filled: 0,
      ...(accounts && { accounts }),
    });
}

function undo(state: QueuesPart, { match: id }: Extract<MatchEvent, { kind: "queue.undone" }>, at: number): void {
  const { matches, byRoom, backfills, tickets } = state.queues;
  const made = matches.get(id);
  if (!made) return;
  const queue = queueOf(state.queues, made.queue);
  if (made.room !== null) byRoom.delete(made.room);
  matches.delete(id);
  queue.matches -= 1;
  queue.recent = queue.recent.filter((one) => one !== id);
  const backfill = backfills.get(made.into ?? "");
  if (backfill) backfills.set(backfill.room, { ...backfill, match: null });
  if (!made.asking) {
    // Not at once: what was missing, such as a free instance, is still missing now.
    setDeadline(state.deadlines, "queue-pass", made.queue, at + TRY_AGAIN_MS);
    return;
  }
  clearDeadline(state.deadlines, "match-confirm", id);
  for (const { id: one } of made.tickets) {
    const ticket = tickets.get(one);
    if (ticket === undefined) continue;
    const { asked: _, askedIn: __, ...free } = ticket;
    // The time in which it was asked does not count.
    const untilMs = free.untilMs === null ? null : free.untilMs + (at - made.atMs);
    replaceTicket(state, { ...free, untilMs }, at);
  }
}
