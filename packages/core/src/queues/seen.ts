import type { QueuesSeen } from "../model/seen.ts";
import type { QueuesPart } from "../model/state.ts";
import { ticketOf } from "./parts.ts";
import { backfillView, ticketView } from "./view.ts";

/** What rooms and pools see of queues. */
export const seenOfQueues = (all: () => QueuesPart): QueuesSeen => ({
  isSearching: (player) => all().queues.byPlayer.has(player),
  ticketOf: (player) => {
    const ticket = ticketOf(all(), player);
    return ticket && ticketView(all(), ticket);
  },
  searchingIn: (lobby) => all().derived.queueCounts.searchingIn(lobby),
  backfillOf: (room) => backfillView(all(), room),
  regionsOf: (room) => all().queues.regions.get(room),
  confirming: () =>
    [...all().queues.matches.values()]
      .filter(({ asking, into }) => asking && into === undefined)
      .map(({ queue }) => queue),
});
