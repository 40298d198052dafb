import type {
  ConfigName,
  MatchView,
  OwnUpdate,
  PlayerId,
  QueueSummary,
  RoomView,
  TicketView,
} from "@yellow-harbor/protocol";
import type { MatchQuality } from "../matching/index.ts";
import { type Delivery, toOne } from "../model/push.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { QueueRules } from "../model/queues/rules.ts";
import { type MadeMatch, queuesOf, type Ticket } from "../model/queues/state.ts";
import { audienceOf } from "../model/rooms/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";
import { estimateFor } from "./estimate.ts";

export function ticketView(state: QueuesPart, ticket: Ticket): TicketView {
  const { id, queue, also, leader, party, players, sinceMs, untilMs, held } = ticket;
  const match = state.queues.matches.get(ticket.asked ?? "");
  const estimate = estimateOf(state, ticket);
  return {
    id,
    queue,
    ...(also && { also: [...also] }),
    leader,
    ...(party !== undefined && { party }),
    players: players.map((player) => ({ id: player.id, name: player.name, agreed: player.agreed })),
    state: match ? "confirming" : sinceMs === null ? "asking" : held ? "held" : "searching",
    ...(match?.asking && { confirm: confirmView(match, match.asking) }),
    ...(sinceMs !== null && { sinceMs }),
    ...(untilMs !== null && !match && { untilMs }),
    ...(estimate && { estimate }),
  };
}

/** Of several queues the one where the wait is the shortest. */
function estimateOf({ queues }: QueuesPart, ticket: Ticket): TicketView["estimate"] {
  const estimates = queuesOf(ticket).flatMap(
    (queue) => estimateFor(queues.byName.get(queue)?.waits ?? [], ticket.players.length) ?? [],
  );
  return estimates.reduce<TicketView["estimate"]>(
    (one, other) => (one && one.p50S <= other.p50S ? one : other),
    undefined,
  );
}

const confirmView = ({ id, tickets }: MadeMatch, { untilMs, accepted }: NonNullable<MadeMatch["asking"]>) => ({
  match: id,
  untilMs,
  accepted: [...accepted],
  players: tickets.reduce((sum, { players }) => sum + players.length, 0),
});

export function backfillView({ queues }: QueuesPart, room: string): RoomView["backfill"] {
  const backfill = queues.backfills.get(room);
  return backfill && { queue: backfill.queue, untilMs: backfill.untilMs, places: backfill.places };
}

export function queueSummary(state: QueuesPart, rules: HarborRules, id: string): QueueSummary {
  const { title, lobby, match } = rules.queues.get(id) ?? { title: id, lobby: "", match: undefined };
  const queue = state.queues.byName.get(id);
  const { tickets, players, confirming, oldestSinceMs } = state.derived.queueCounts.of(id);
  const lately = latelyOf((queue?.recent ?? []).flatMap((match) => state.queues.matches.get(match) ?? []));
  return {
    id,
    title,
    lobby,
    mode: queue?.mode ?? "open",
    tickets,
    players,
    confirming,
    matches: queue?.matches ?? 0,
    requires: requires(match),
    backfill: [...state.queues.backfills.values()].filter((one) => one.queue === id).length,
    ...(oldestSinceMs !== undefined && { oldestSinceMs }),
    ...(lately && { lately }),
  };
}

/** What a search has to bring. What a player said hello with is known. */
function requires(match: QueueRules["match"] | undefined): QueueSummary["requires"] {
  const { closeness = [], needs = [], lineUp = null, latency = null } = match ?? {};
  const within = needs.filter((need) => "from" in need || "to" in need).map(({ attribute }) => attribute);
  const numbers = [...new Set([...closeness.map(({ attribute }) => attribute), ...within])];
  const others = [...needs.map(({ attribute }) => attribute), ...(lineUp ? [lineUp.attribute] : [])];
  return {
    numbers,
    others: [...new Set(others)].filter((attribute) => attribute !== "build" && !numbers.includes(attribute)),
    regions: [...(latency?.regions ?? [])],
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

const qualityView = ({ unmet, ...quality }: MatchQuality): MatchView["quality"] => ({
  ...quality,
  ...(unmet && { unmet: [...unmet] }),
});

export const matchView = ({
  id,
  queue,
  atMs,
  tickets,
  sides,
  roles,
  room,
  into,
  asking,
  ...made
}: MadeMatch): MatchView => ({
  id,
  queue,
  atMs,
  region: made.region,
  quality: qualityView(made.quality),
  tickets: tickets.map((ticket) => ({
    id: ticket.id,
    players: ticket.players.map((player) => player.id),
    waitedS: (atMs - (ticket.sinceMs ?? atMs)) / 1_000,
  })),
  sides: sides.map((side) => [...side]),
  ...(roles && { roles }),
  ...(room !== null && { room }),
  ...(into !== undefined && { into }),
  ...(asking && { confirming: true }),
});

/** The queues whose numbers an event changes: those of its own, and of its tickets. */
export function touchedQueues(state: QueuesPart, event: QueueEvent): readonly ConfigName[] {
  return [...new Set([event.queue, ...ticketsIn(state, event).flatMap(queuesOf), ...alsoIn(event)])];
}

const alsoIn = (event: QueueEvent) => (event.kind === "queue.ticket-ended" ? (event.also ?? []) : []);

function ticketsIn(state: QueuesPart, event: QueueEvent): readonly Ticket[] {
  if (event.kind === "queue.undone") return (event.searching ?? []).flatMap((id) => state.queues.tickets.get(id) ?? []);
  if ("match" in event) return ticketsOf(state, event.match);
  if (!("ticket" in event)) return [];
  const ticket = state.queues.tickets.get(typeof event.ticket === "string" ? event.ticket : event.ticket.id);
  return ticket ? [ticket] : [];
}

/** What a queue does that the members of a room see in its view. */
type SeenInRoom = Extract<QueueEvent, { kind: `queue.${"backfill-started" | "backfill-ended" | "backfilled"}` }>;

const SEEN_IN_ROOM: ReadonlySet<QueueEvent["kind"]> = new Set<SeenInRoom["kind"]>([
  "queue.backfill-started",
  "queue.backfill-ended",
  "queue.backfilled",
]);

export const isSeenInRoom = (state: QueuesPart, event: QueueEvent): event is SeenInRoom =>
  SEEN_IN_ROOM.has(event.kind) && state.seen.rooms.room((event as SeenInRoom).room) !== undefined;

/** What players have to be told: each of the ticket, by itself, and the members of a room that is filled up. */
export function queuePushes(state: QueuesPart, event: QueueEvent): Delivery[] {
  if (isSeenInRoom(state, event)) return roomPush(state, event);
  switch (event.kind) {
    case "queue.ticket-opened":
      return changed(state, event.ticket.id);
    case "queue.agreed":
    case "queue.held-changed":
    case "queue.ticket-narrowed":
      return changed(state, event.ticket);
    case "queue.ticket-ended":
      return ended(state, event);
    case "queue.matched":
      if (event.confirmByMs !== undefined) return event.tickets.flatMap((ticket) => changed(state, ticket));
      return ended(state, event);
    case "queue.accepted":
      return ticketsOf(state, event.match).flatMap(({ id }) => changed(state, id));
    case "queue.confirmed":
      return ended(state, event);
    case "queue.undone":
      return event.searching?.flatMap((ticket) => changed(state, ticket)) ?? [];
    default:
      return [];
  }
}

function roomPush(state: QueuesPart, event: SeenInRoom): Delivery[] {
  const room = state.seen.rooms.room(event.room);
  if (room === undefined) return [];
  const backfill = backfillView(state, room.id) ?? null;
  const why = "why" in event ? event.why : "somebody has come";
  const update = { kind: "backfill-changed", wanted: backfill !== null, why } as const;
  return [{ scope: "room", id: room.id, to: audienceOf(room), revision: room.revision, update, patch: { backfill } }];
}

const ticketsOf = ({ queues }: QueuesPart, match: string): readonly Ticket[] =>
  queues.matches.get(match)?.tickets ?? [];

const ended = (state: QueuesPart, event: QueueEvent): Delivery[] =>
  endingsOf(state, event).map(({ player, ...ending }) => toOne(player, { kind: "ticket-ended", ...ending }));

/** Whose search an event ends, and why. Of a match they are known once it is applied. */
export function endingsOf(state: QueuesPart, event: QueueEvent): Ending[] {
  if (event.kind === "queue.ticket-ended") {
    const { ticket, cause, detail, players } = event;
    return players.map((player) => ({ player, ticket, cause, detail }));
  }
  const isMade =
    event.kind === "queue.confirmed" || (event.kind === "queue.matched" && event.confirmByMs === undefined);
  if (!isMade) return [];
  const why = { cause: "matched", detail: "A match was made." } as const;
  return ticketsOf(state, event.match).flatMap(({ id: ticket, players }) =>
    players.map(({ id: player }) => ({ player, ticket, ...why })),
  );
}

interface Ending extends Omit<Extract<OwnUpdate, { kind: "ticket-ended" }>, "kind"> {
  readonly player: PlayerId;
}

function changed(state: QueuesPart, id: string): Delivery[] {
  const ticket = state.queues.tickets.get(id);
  if (ticket === undefined) return [];
  const view = ticketView(state, ticket);
  return ticket.players.map((player) => toOne(player.id, { kind: "ticket-changed", ticket: view }));
}
