import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { QueuesPart } from "../model/state.ts";
import { passSoon } from "./apply-ticket.ts";

type FillingEvent = Extract<QueueEvent, { kind: `queue.${"filling-begun" | "filling-ended" | "filled"}` }>;

export function applyFilling(state: QueuesPart, event: FillingEvent, at: number): void {
  const { fillings, matches, rooms } = state.queues;
  switch (event.kind) {
    case "queue.filling-begun": {
      const { room, queue, untilMs, places } = event;
      fillings.set(room, { room, queue, sinceMs: at, untilMs, places, match: null });
      setDeadline(state.deadlines, "filling-end", room, untilMs);
      return passSoon(state, queue, at);
    }
    case "queue.filling-ended":
      fillings.delete(event.room);
      clearDeadline(state.deadlines, "filling-end", event.room);
      return;
    case "queue.filled": {
      const made = matches.get(event.match);
      if (made === undefined) return;
      matches.set(made.id, { ...made, room: event.room, forming: false });
      const came = made.tickets.reduce((sum, { players }) => sum + players.length, 0);
      const known = rooms.get(event.room);
      if (known) {
        rooms.set(event.room, { ...known, tickets: [...known.tickets, ...made.tickets], filled: known.filled + came });
      }
      const filling = fillings.get(event.room);
      if (filling) fillings.set(event.room, { ...filling, places: filling.places - came, match: null });
      for (const { players } of made.tickets) for (const player of players) state.queues.pauses.delete(player.id);
      return;
    }
    default:
      assertNever(event);
  }
}
