import type { RoomId } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { PrivateEntryEvent } from "../model/private-entries/events.ts";
import { entryKey } from "../model/private-entries/state.ts";
import type { RoomsPart } from "../model/state.ts";

export function applyPrivateEntry({ privateEntries: { byRoom } }: RoomsPart, event: PrivateEntryEvent): void {
  switch (event.kind) {
    case "private.set": {
      const { room, owner, key, value, size, to } = event;
      const entries = byRoom.get(room) ?? new Map();
      const revision = (entries.get(entryKey(owner, key))?.revision ?? 0) + 1;
      entries.set(entryKey(owner, key), { owner, key, to, value, size, revision });
      byRoom.set(room, entries);
      return;
    }
    case "private.removed": {
      const entries = byRoom.get(event.room);
      for (const { owner, key } of event.entries) entries?.delete(entryKey(owner, key));
      if (entries?.size === 0) byRoom.delete(event.room);
      return;
    }
    case "private.shown":
      return;
    default:
      assertNever(event);
  }
}

/** The room is gone. */
export const forgetRoom = ({ privateEntries }: RoomsPart, room: RoomId): void =>
  void privateEntries.byRoom.delete(room);
