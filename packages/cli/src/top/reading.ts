import type { OperatorClient } from "@yellow-harbor/client";
import type { PoolView, QueueSummary, RoomView, StatusView } from "@yellow-harbor/protocol";
import type { ListName } from "./lists.ts";

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

/** Why one of a list is as it is. */
export async function lookDeeper(operator: OperatorClient, list: ListName, id: string): Promise<readonly string[]> {
  if (list === "pools") return (await operator.explainPool(id)).text;
  if (list === "rooms") return (await operator.explainRoom(id)).text;
  const { tickets, total } = await operator.tickets({ queue: id, limit: 1 });
  const [oldest] = tickets;
  if (oldest === undefined) return [`Nobody waits in queue ${id}.`];
  const { text } = await operator.explainTicket(oldest.id);
  return [`${total} wait in queue ${id}. The ticket that has waited longest is ${oldest.id}:`, "", ...text];
}
