import type { OwnUpdate, PrivateEntryView } from "@yellow-harbor/protocol";

/** The private entries of a room that one may see. */
export interface PrivateHeld {
  readonly room: string | undefined;
  readonly entries: readonly PrivateEntryView[];
}

export const NOTHING_PRIVATE: PrivateHeld = { room: undefined, entries: [] };

/** What one holds after an update of one's own; the same when that says nothing of it. */
export function applyPrivate(held: PrivateHeld, update: OwnUpdate): PrivateHeld {
  switch (update.kind) {
    case "private-entries":
      return { room: update.room, entries: update.entries };
    case "private-entry-set":
      return { room: update.room, entries: [...others(held, update.room, update.entry), update.entry] };
    case "private-entry-removed":
      return { room: update.room, entries: others(held, update.room, update) };
    default:
      return held;
  }
}

/** What one holds once one is in this room, or in none: nothing of another. */
export const privateIn = (held: PrivateHeld, room: string | undefined): PrivateHeld =>
  room === held.room ? held : { room, entries: [] };

function others(held: PrivateHeld, room: string, { owner, key }: Pick<PrivateEntryView, "owner" | "key">) {
  return held.room === room ? held.entries.filter((one) => one.owner !== owner || one.key !== key) : [];
}
