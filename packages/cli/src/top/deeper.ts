import type { OperatorClient } from "@yellow-harbor/client";
import type { ListName } from "./lists.ts";

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
