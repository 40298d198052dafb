import type { PlayerId, SideName } from "@yellow-harbor/protocol";
import type { Reservation } from "./reservations.ts";
import type { Member, Room } from "./state.ts";

/** The lowest places that nobody has, so many of them. */
export function freePlaces(room: Room, many: number): number[] {
  const taken = new Set([...room.members.values()].map((member) => member.place));
  const places: number[] = [];
  for (let place = 0; places.length < many; place++) if (!taken.has(place)) places.push(place);
  return places;
}

/** Members of each side, in the order of the room kind's sides. */
export function sideSizes(room: Room): Map<SideName, number> {
  const sizes = new Map((room.policy.sides?.names ?? []).map((name) => [name, 0]));
  for (const { side } of room.members.values()) if (side !== null) sizes.set(side, (sizes.get(side) ?? 0) + 1);
  return sizes;
}

/** Members of each side, and places on it that are kept for others than the one who comes. */
function sidesTaken(room: Room, own?: Reservation): Map<SideName, number> {
  const taken = sideSizes(room);
  for (const one of room.reservations.values())
    if (one !== own && one.side !== null) taken.set(one.side, (taken.get(one.side) ?? 0) + 1);
  return taken;
}

/** The side with the fewest members, the first of those; undefined when all are full or there are none. */
export function smallestSide(room: Room, own?: Reservation): SideName | undefined {
  const max = room.policy.sides?.max ?? 0;
  let best: { name: SideName; size: number } | undefined;
  for (const [name, size] of sidesTaken(room, own)) {
    if (size < max && (best === undefined || size < best.size)) best = { name, size };
  }
  return best?.name;
}

export const sidesFull = (room: Room, own?: Reservation): boolean =>
  room.policy.sides !== null && smallestSide(room, own) === undefined;

export const freeSide = (room: Room, side: SideName, own?: Reservation): boolean =>
  (sidesTaken(room, own).get(side) ?? Number.POSITIVE_INFINITY) < (room.policy.sides?.max ?? 0);

/** By how many members the largest side is ahead of the smallest. */
export function sidesApart(room: Room): number {
  const sizes = [...sideSizes(room).values()];
  return sizes.length === 0 ? 0 : Math.max(...sizes) - Math.min(...sizes);
}

/**
 * The fewest moves after which no side is ahead of another by more than one: from the largest side to the smallest, those
 * who came last first, so that who has stood longest stays.
 */
export function evenOut(
  members: readonly Pick<Member, "id" | "side">[],
  names: readonly SideName[],
): { player: PlayerId; side: SideName }[] {
  const standing = new Map(
    names.map((name) => [name, members.filter(({ side }) => side === name).map(({ id }) => id)]),
  );
  const moves: { player: PlayerId; side: SideName }[] = [];
  for (;;) {
    const bySize = [...standing].sort(([, a], [, b]) => a.length - b.length);
    const [smallest, largest] = [bySize[0], bySize.at(-1)];
    if (smallest === undefined || largest === undefined || largest[1].length - smallest[1].length <= 1) return moves;
    const player = largest[1].pop() as PlayerId;
    smallest[1].push(player);
    moves.push({ player, side: smallest[0] });
  }
}
