import type { RoomsPart } from "../model/state.ts";

/** What must never be among the private entries, each in a sentence. */
export function privateEntryViolations({ privateEntries, rooms }: RoomsPart): string[] {
  return [...privateEntries.byRoom].flatMap(([id, entries]) => {
    const room = rooms.byId.get(id);
    if (room === undefined) return [`private entries of room ${id} are kept, which is gone`];
    if (entries.size === 0) return [`private entries of room ${id} are kept, of which there are none`];
    return [...entries.values()].flatMap(({ owner, key, to }) => {
      const isRead = "player" in to ? room.members.has(to.player) : room.policy.sides?.names.includes(to.side);
      return [
        ...(room.members.has(owner) ? [] : [`private entry ${key} in ${id} is of ${owner}, who is no member`]),
        ...(isRead ? [] : [`private entry ${key} in ${id} is for ${JSON.stringify(to)}, which is nobody`]),
      ];
    });
  });
}
