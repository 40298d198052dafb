import type { ConfigName, RoomId } from "@yellow-harbor/protocol";
import { openPlaces } from "../../model/rooms/reservations.ts";
import { searchText } from "../../model/rooms/search-text.ts";
import { sidesFull } from "../../model/rooms/sides.ts";
import type { Room, RoomsState } from "../../model/rooms/state.ts";
import { takesNow } from "../../model/rooms/takes-now.ts";

/** With so many rooms to choose from, one more does not make the choice better. */
const EXAMINED_MAX = 64;

const shelfOf = (lobby: ConfigName, kind: ConfigName, level: string) => `${lobby}/${kind}/${level}`;

/** Two names are the same room when people would read them the same. */
export const nameKey = (lobby: ConfigName, name: string): string => `${lobby}/${searchText(name)}`;

/** Files the room anew after a change: by its free places while it takes somebody in, else nowhere. */
export function reindex(rooms: RoomsState, room: Room): void {
  // Nobody is sent where it cannot come in: a password has to be known.
  const mayAnybody = room.visibility === "listed" && room.password === undefined;
  const isOpen = mayAnybody && takesNow(room) && openPlaces(room) > 0 && !sidesFull(room);
  const wanted = isOpen
    ? { shelf: shelfOf(room.lobby, room.kind, room.level?.id ?? ""), free: openPlaces(room) }
    : null;
  const { indexed } = room;
  if (indexed?.shelf === wanted?.shelf && indexed?.free === wanted?.free) return;
  takeOut(rooms, room);
  room.indexed = wanted;
  if (wanted === null) return;
  const shelf = entry(rooms.open, wanted.shelf, () => new Map<number, Set<RoomId>>());
  entry(shelf, wanted.free, () => new Set<RoomId>()).add(room.id);
}

/** Takes a room out of the index, before it closes. */
export function takeOut(rooms: RoomsState, room: Room): void {
  const { indexed } = room;
  if (indexed === null) return;
  const shelf = rooms.open.get(indexed.shelf);
  const row = shelf?.get(indexed.free);
  row?.delete(room.id);
  if (row?.size === 0) shelf?.delete(indexed.free);
  if (shelf?.size === 0) rooms.open.delete(indexed.shelf);
  room.indexed = null;
}

export function nameRoom(rooms: RoomsState, room: Room): void {
  entry(rooms.byName, nameKey(room.lobby, room.name), () => new Set<RoomId>()).add(room.id);
}

/** The names of all rooms, as they are found by them: worked out anew from the rooms that a snapshot has. */
export function nameAll({ rooms }: { readonly rooms: RoomsState }): void {
  rooms.byName.clear();
  for (const room of rooms.byId.values()) nameRoom(rooms, room);
}

export function unnameRoom(rooms: RoomsState, room: Room): void {
  const key = nameKey(room.lobby, room.name);
  const named = rooms.byName.get(key);
  named?.delete(room.id);
  if (named?.size === 0) rooms.byName.delete(key);
}

/**
 * Rooms that take somebody in, row by row: those with the same number of free places together, the fewest first; of each
 * row a bounded number.
 */
export function* openRows(
  rooms: RoomsState,
  lobby: ConfigName,
  { kinds, level }: { kinds: readonly ConfigName[]; level: ConfigName | undefined },
): Generator<Room[]> {
  const fits = (shelf: string) =>
    kinds.some((kind) =>
      level === undefined ? shelf.startsWith(shelfOf(lobby, kind, "")) : shelf === shelfOf(lobby, kind, level),
    );
  const shelves = [...rooms.open].filter(([shelf]) => fits(shelf)).map(([, shelf]) => shelf);
  const frees = new Set(shelves.flatMap((shelf) => [...shelf.keys()]));
  for (const free of [...frees].sort((a, b) => a - b)) {
    const row: Room[] = [];
    for (const shelf of shelves) takeFew(rooms, shelf.get(free), row);
    yield row;
  }
}

function takeFew(rooms: RoomsState, ids: Set<RoomId> | undefined, row: Room[]): void {
  for (const id of ids ?? []) {
    if (row.length >= EXAMINED_MAX) return;
    const room = rooms.byId.get(id);
    if (room) row.push(room);
  }
}

function entry<K, V>(map: Map<K, V>, key: K, make: () => V): V {
  const known = map.get(key);
  if (known !== undefined) return known;
  const made = make();
  map.set(key, made);
  return made;
}
