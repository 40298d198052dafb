import { DirectoryIndex } from "./indexes/directory-index.ts";
import { QueueCounts } from "./indexes/queue-counts.ts";
import { WaitingIndex } from "./indexes/waiting-index.ts";
import type { QueuesState } from "./queues/state.ts";
import type { RoomsState } from "./rooms/state.ts";

/**
 * What a harbor works out of its state so as not to work it out again. It holds no truth: it is in no snapshot and no
 * event, begins empty, and a harbor without it would decide the same.
 */
export interface Derived {
  readonly waiting: WaitingIndex;
  readonly queueCounts: QueueCounts;
  readonly directory: DirectoryIndex;
}

const newDerived = (): Derived => ({
  waiting: new WaitingIndex(),
  queueCounts: new QueueCounts(),
  directory: new DirectoryIndex(),
});

/** What goes with a state that was read from a snapshot. */
export function deriveFrom(queues: QueuesState, rooms: RoomsState): Derived {
  const derived = newDerived();
  for (const ticket of queues.tickets.values()) derived.queueCounts.change(undefined, ticket);
  for (const id of rooms.byId.keys()) derived.directory.touch(id);
  derived.directory.settle(rooms);
  return derived;
}
