import type { OwnUpdate, PlayerId, PrivateEntryView, RoomId } from "@yellow-harbor/protocol";
import { assertNever } from "../model/decision.ts";
import type { PrivateEntryEvent } from "../model/private-entries/events.ts";
import { entryKey, type PrivateEntry } from "../model/private-entries/state.ts";
import { type Delivery, toOne } from "../model/push.ts";
import type { Room } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { mayRead, readersOf } from "./readers.ts";

const entryView = ({ owner, key, to, value, revision }: PrivateEntry): PrivateEntryView => ({
  owner,
  key,
  to,
  value,
  revision,
});

/** All of a room, for those who operate it. */
export const allIn = ({ privateEntries }: RoomsPart, room: RoomId): PrivateEntryView[] =>
  [...(privateEntries.byRoom.get(room)?.values() ?? [])].map(entryView);

/** Those of a room that one player may read. */
export function seenBy(state: RoomsPart, id: RoomId, player: PlayerId): PrivateEntryView[] {
  const room = state.rooms.byId.get(id);
  return room === undefined ? [] : allIn(state, id).filter((entry) => mayRead(room, entry, player));
}

/** What is told about an event, from the state after it. */
export function privatePushes(state: RoomsPart, event: PrivateEntryEvent): Delivery[] {
  const room = state.rooms.byId.get(event.room);
  if (room === undefined) return [];
  switch (event.kind) {
    case "private.set":
      return setPushes(state, room, event);
    case "private.removed":
      return event.entries.flatMap((entry) => readersOf(room, entry).map((one) => toOne(one, removal(room.id, entry))));
    case "private.shown":
      return event.players.map((one) =>
        toOne(one, { kind: "private-entries", room: room.id, entries: seenBy(state, room.id, one) }),
      );
    default:
      return assertNever(event);
  }
}

function setPushes(
  { privateEntries }: RoomsPart,
  room: Room,
  event: Extract<PrivateEntryEvent, { kind: "private.set" }>,
): Delivery[] {
  const { owner, key, from } = event;
  const entry = privateEntries.byRoom.get(room.id)?.get(entryKey(owner, key));
  if (entry === undefined) return [];
  const update: OwnUpdate & { kind: "private-entry-set" } = {
    kind: "private-entry-set",
    room: room.id,
    entry: entryView(entry),
  };
  const now = readersOf(room, entry);
  const former = from === undefined ? [] : readersOf(room, { owner, to: from }).filter((one) => !now.includes(one));
  return [...now.map((one) => toOne(one, update)), ...former.map((one) => toOne(one, removal(room.id, entry)))];
}

const removal = (room: RoomId, { owner, key }: Pick<PrivateEntry, "owner" | "key">) =>
  ({ kind: "private-entry-removed", room, owner, key }) as const;
