import { assertNever } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { queuesOf } from "../model/queues/state.ts";
import type { QueuesPart } from "../model/state.ts";
import { listed } from "./parts.ts";

/** The event in a sentence, from the state after it. */
export function describeQueue(state: QueuesPart, event: QueueEvent): string | undefined {
  switch (event.kind) {
    case "queue.ticket-opened": {
      const names = event.ticket.players.map(({ name }) => name).join(", ");
      const where = listed(queuesOf(event.ticket));
      if (event.again !== undefined) return `${names} search in ${where} again, with their wait: ${event.again}`;
      if (event.ticket.sinceMs === null) return `${names} are asked to search in ${where} together.`;
      return `${names} begins to search in ${where}.`;
    }
    case "queue.agreed":
      return event.search ? `The party of ticket ${event.ticket} begins to search in ${event.queue}.` : undefined;
    case "queue.held-changed":
      return event.held
        ? `Ticket ${event.ticket} is held: one of its players is away.`
        : `Ticket ${event.ticket} searches on: its players are back.`;
    case "queue.ticket-narrowed":
      return `Ticket ${event.ticket} searches in ${event.queue} no more: ${event.detail}`;
    case "queue.ticket-ended":
      return `Ticket ${event.ticket} ends: ${event.detail}`;
    case "queue.matched": {
      const { quality, region, match, queue, tickets } = event;
      const spreads = Object.entries(quality.spread).map(([name, spread]) => `${name} within ${spread}`);
      const where = region === null ? "" : ` at ${region}, ${quality.worstLatencyMs} ms at worst`;
      const how = [...spreads, `longest wait ${quality.longestWaitS} s`].join(", ");
      const what = event.into === undefined ? "" : ` for the playing room ${event.into}`;
      const asked = event.confirmByMs === undefined ? "" : " Its players have to confirm.";
      return `Queue ${queue} makes match ${match} of ${tickets.length} tickets${what}${where}: ${how}.${asked}`;
    }
    case "queue.accepted":
    case "queue.match-started":
    case "queue.forfeited":
      return undefined;
    case "queue.confirmed":
      return `All players of match ${event.match} have accepted it.`;
    case "queue.search-paused": {
      const { name, times, leaver } = event;
      if (leaver !== undefined) return `${name} has left a match that is played and may not search again for a while.`;
      const what = times === 1 ? "a match" : `${times} matches in a row`;
      return `${name} let ${what} go and may not search again for a while.`;
    }
    case "queue.backfill-started":
      return `Room ${codeOf(state, event.room)} asks queue ${event.queue} for players, up to ${event.places}: ${event.why}`;
    case "queue.backfill-ended":
      return `Room ${codeOf(state, event.room)} no longer looks for replacements: ${event.why}.`;
    case "queue.backfilled":
      return `Match ${event.match} fills up room ${codeOf(state, event.room)}.`;
    case "queue.room-ended":
      return `Room ${codeOf(state, event.room)} ends: ${event.why}, and its queue's rooms do not play on without.`;
    case "queue.undone":
      return `Match ${event.match} comes to nothing: ${event.why}`;
    case "queue.mode-set": {
      const searching = state.queues.byName.get(event.queue)?.tickets.size ?? 0;
      return `Queue ${event.queue} is ${event.mode} now; ${searching} tickets are in it.`;
    }
    default:
      return assertNever(event);
  }
}

const codeOf = ({ seen }: QueuesPart, room: string): string => seen.rooms.room(room)?.code ?? room;
