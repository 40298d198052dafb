import { type Match, qualityOf, rolesOf, sidesOf } from "../matching/index.ts";
import type { QueueEvent } from "../model/queues/events.ts";
import type { QueueRules } from "../model/queues/rules.ts";

/** A match that a queue makes at a moment. */
export function matchedEvent(
  queue: string,
  { match: rules, confirm }: QueueRules,
  match: Match,
  at: number,
  id: string,
): QueueEvent {
  const tickets = match.entrants.map(({ party }) => party.ticket);
  const quality = qualityOf(rules, match, at);
  const roles = rolesOf(rules, match);
  return {
    kind: "queue.matched",
    queue,
    match: id,
    tickets,
    region: match.region,
    ...(match.regions.length > 0 && { regions: match.regions }),
    sides: sidesOf(match),
    ...(roles && { roles }),
    quality,
    ...(confirm && { confirmByMs: at + confirm.withinMs }),
  };
}
