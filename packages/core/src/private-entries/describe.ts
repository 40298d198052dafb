import type { PrivateReaders } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { PrivateEntryEvent } from "../model/private-entries/events.ts";
import type { RoomsPart } from "../model/state.ts";

/** The event in a sentence, from the state after it. */
export function describePrivateEntry(state: RoomsPart, event: PrivateEntryEvent): string | undefined {
  const nameOf = (player: string) => state.players.byId.get(player)?.name ?? player;
  const to = (readers: PrivateReaders) =>
    "player" in readers ? nameOf(readers.player) : `those on side ${readers.side}`;
  switch (event.kind) {
    case "private.set":
      return `${nameOf(event.owner)} lets ${to(event.to)} see the private entry ${event.key}.`;
    case "private.removed":
      return event.entries.map(({ owner, key }) => `The private entry ${key} of ${nameOf(owner)} is gone.`).join(" ");
    case "private.shown":
      // It says nothing that the event does not which it follows.
      return undefined;
    default:
      return assertNever(event);
  }
}
