import type { HarborEvent } from "../model/event.ts";
import type { Push } from "../model/push.ts";
import type { HarborState } from "../model/state.ts";
import { capabilityOf } from "./capabilities.ts";

/** What players have to be told about an event that was just applied. */
export function pushesOf(state: HarborState, event: HarborEvent): readonly Push[] {
  const deliveries = capabilityOf(event.kind).deliveries?.(state, event) ?? [];
  return deliveries.map((one) => {
    if (one.scope !== "you") return one;
    const revision = state.players.byId.get(one.to)?.own?.revision ?? 0;
    return { scope: "you", to: one.to, revision, update: one.update };
  });
}

/** The event in a sentence, from the state after it; undefined when it says nothing that another event does not. */
export const describe = (state: HarborState, event: HarborEvent, at: number): string | undefined =>
  capabilityOf(event.kind).describe?.(state, event, at);
