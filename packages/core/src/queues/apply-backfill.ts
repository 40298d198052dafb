import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { QueuesPart } from "../model/state.ts";
import { passSoon } from "./apply-ticket.ts";
import { pauseKey } from "./parts.ts";

type BackfillEvent = Extract<QueueEvent, { kind: `queue.${"backfill-started" | "backfill-ended" | "backfilled"}` }>;

export function applyBackfill(state: QueuesPart, event: BackfillEvent, at: number): void {
  const { backfills, matches, rooms } = state.queues;
  switch (event.kind) {
    case "queue.backfill-started": {
      const { room, queue, untilMs, places } = event;
      backfills.set(room, { room, queue, sinceMs: at, untilMs, places, match: null });
      setDeadline(state.deadlines, "backfill-end", room, untilMs);
      return passSoon(state, queue, at);
    }
    case "queue.backfill-ended":
      backfills.delete(event.room);
      clearDeadline(state.deadlines, "backfill-end", event.room);
      return;
    case "queue.backfilled": {
      const made = matches.get(event.match);
      if (made === undefined) return;
      matches.set(made.id, { ...made, room: event.room, forming: false });
      const came = made.tickets.reduce((sum, { players }) => sum + players.length, 0);
      const known = rooms.get(event.room);
      if (known) {
        rooms.set(event.room, { ...known, tickets: [...known.tickets, ...made.tickets], filled: known.filled + came });
      }
      const backfill = backfills.get(event.room);
      if (backfill) backfills.set(event.room, { ...backfill, places: backfill.places - came, match: null });
      for (const { players } of made.tickets)
        for (const player of players) state.queues.pauses.delete(pauseKey(state, player.id));
      return;
    }
    default:
      assertNever(event);
  }
}
