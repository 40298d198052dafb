import type { PlayerId, PrivateReaders } from "@yellow-harbor/protocol";
import type { PrivateEntry } from "../model/private-entries/state.ts";
import type { Room } from "../model/rooms/state.ts";

type Addressed = Pick<PrivateEntry, "owner" | "to">;

/** Whether a member may read it: whoever only looks on may read none. */
export function mayRead({ members }: Pick<Room, "members">, { owner, to }: Addressed, player: PlayerId): boolean {
  const member = members.get(player);
  if (member === undefined) return false;
  return owner === player || isFor(to, player, member.side);
}

const isFor = (to: PrivateReaders, player: PlayerId, side: string | null): boolean =>
  "player" in to ? to.player === player : to.side === side;

/** All who may read it now. */
export const readersOf = (room: Room, entry: Addressed): PlayerId[] =>
  [...room.members.keys()].filter((player) => mayRead(room, entry, player));
