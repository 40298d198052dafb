import type { ConfigName, PlayerId, TicketEnd } from "@yellow-harbor/protocol";
import { type QueuesContext, type Refusal, refuse } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { Ticket } from "../model/queues/state.ts";
import type { HarborRules } from "../model/rules.ts";
import type { QueuesPart } from "../model/state.ts";
import { ticketView } from "./view.ts";

/** The ticket a player searches with. */
export const ticketOf = ({ queues }: QueuesPart, player: PlayerId): Ticket | undefined =>
  queues.tickets.get(queues.byPlayer.get(player) ?? "");

export const nameIn = ({ players }: Ticket, player: PlayerId): string =>
  players.find(({ id }) => id === player)?.name ?? player;

/** Under what a pause is kept: an account does not shed it by coming again, and a guest has nothing else but its id. */
export const pauseKey = ({ seen }: QueuesPart, player: PlayerId): string =>
  seen.rooms.player(player)?.identity?.account ?? player;

/** When a search that begins now ends with nobody found: of several queues the one that searches longest; null for never. */
export function searchEnd({ queues }: HarborRules, names: readonly ConfigName[], at: number): number | null {
  const lengths = names.map((name) => queues.get(name)?.searchMs ?? null);
  return lengths.some((searchMs) => searchMs === null) ? null : at + Math.max(...lengths.map(Number));
}

export const endedEvent = (ticket: Ticket, cause: TicketEnd, detail: string): QueueEvent => ({
  kind: "queue.ticket-ended",
  queue: ticket.queue,
  ticket: ticket.id,
  ...(ticket.also && { also: ticket.also }),
  players: ticket.players.map(({ id }) => id),
  cause,
  detail,
});

export const ticketReply = (ticket: Ticket) => (state: QueuesPart) => ({
  ticket: ticketView(state, state.queues.tickets.get(ticket.id) ?? ticket),
});

export function unknownQueue({ rules }: QueuesContext, queue: string): Refusal {
  const accepted = [...rules.queues.keys()];
  const known = accepted.length === 0 ? "there is none" : `there are ${accepted.join(", ")}`;
  return refuse("queue-unknown", `There is no queue ${queue}; ${known}.`, { accepted });
}

/** "A", "A and B", "A, B and C". */
export const listed = (names: readonly string[]): string =>
  names.length < 2 ? (names[0] ?? "") : `${names.slice(0, -1).join(", ")} and ${names.at(-1)}`;
