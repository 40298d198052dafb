import type { OperatorClient } from "@yellow-harbor/client";
import type { PoolView, QueueSummary, RoomView, StatusView } from "@yellow-harbor/protocol";

/** The service as it was at a moment. */
export interface Reading {
  readonly atMs: number;
  readonly status: StatusView;
  readonly rooms: readonly RoomView[];
  /** Whether there are more rooms than were read. */
  readonly moreRooms: boolean;
  readonly queues: readonly QueueSummary[];
  readonly pools: readonly PoolView[];
}

const ROOMS_MAX = 500;

export async function readNow(operator: OperatorClient): Promise<Reading> {
  const [status, page, { queues }, { pools }] = await Promise.all([
    operator.status(),
    operator.rooms({ limit: ROOMS_MAX }),
    operator.queues(),
    operator.pools(),
  ]);
  return { atMs: Date.now(), status, rooms: page.rooms, moreRooms: page.next !== undefined, queues, pools };
}
