import type { Exported } from "../model/capability.ts";
import type { QueueCommand } from "../model/queues/commands.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import { newQueuesState, queuesOf } from "../model/queues/state.ts";
import { applyQueue, holdTickets } from "./apply.ts";
import { forgetPause, linkRoom, unlinkRoom } from "./apply-match.ts";
import { passSoon } from "./apply-ticket.ts";
import { decideQueue } from "./decide.ts";
import { PASS_SLICE } from "./decide-matches.ts";
import { describeQueue } from "./describe.ts";
import { explainMatch, explainTicket } from "./explain.ts";
import { queueViolations, queueWaits } from "./invariants.ts";
import { seenOfQueues } from "./seen.ts";
import { endingsOf, isSeenInRoom, matchView, queuePushes, queueSummary, ticketView, touchedQueues } from "./view.ts";

/** Where players search for others to play with. */
export const queues = {
  names: ["queue"],
  newState: () => ({ queues: newQueuesState() }),
  decide: decideQueue,
  apply: applyQueue,
  deliveries: queuePushes,
  describe: describeQueue,
  touches: (state, event) => ({
    queues: touchedQueues(state, event),
    room: isSeenInRoom(state, event) ? event.room : undefined,
  }),
  due: {
    "queue-pass": (queue) => ({ do: "queue.pass", queue }),
    "ticket-end": (ticket) => ({ do: "queue.expire", ticket }),
    "match-confirm": (match) => ({ do: "queue.confirm-late", match }),
    "backfill-end": (room) => ({ do: "queue.stop-backfill", room, why: "nobody who fits was found in time" }),
  },
  invariants: queueViolations,
  waits: ({ queues }) => queueWaits(queues),
  explain: { ticket: explainTicket, match: explainMatch },
  /** What changes with an event of another capability. */
  also: { linkRoom, unlinkRoom, forgetPause, passSoon, holdTickets },
  views: { queuesOf, ticket: ticketView, match: matchView, summary: queueSummary, endings: endingsOf },
  seen: seenOfQueues,
  /** Most of the matcher's work in one decision. */
  passSlice: PASS_SLICE,
} satisfies Exported<QueueCommand, QueueEvent>;
