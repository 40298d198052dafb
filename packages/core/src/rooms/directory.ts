import type { DirectoryFilter, DirectorySort, RoomId, RoomListing } from "@yellow-harbor/protocol";
import type { HarborEvent } from "../harbor/event.ts";
import type { HarborState } from "../harbor/state.ts";
import type { RoomEvent } from "./events.ts";
import { medianLatency } from "./preference.ts";
import type { Room } from "./state.ts";
import { roomListing } from "./view.ts";

interface DirectoryPage {
  readonly rooms: RoomListing[];
  readonly total: number;
  readonly next?: string;
}

interface Wanted {
  readonly filter?: DirectoryFilter | undefined;
  readonly sort: DirectorySort;
  readonly limit: number;
  readonly after?: string | undefined;
}

/** What is sorted by, the smaller the earlier; ties by id. */
const keys: { readonly [S in DirectorySort]: (room: Room) => number } = {
  newest: (room) => -room.openedAtMs,
  oldest: (room) => room.openedAtMs,
  fullest: (room) => room.capacity - room.members.size,
  emptiest: (room) => room.members.size - room.capacity,
  latency: (room) => medianLatency(room) ?? Number.MAX_SAFE_INTEGER,
};

/** A page of a lobby's directory. Rooms that change between two pages may be missed or come twice; following has no such gap. */
export function directoryPage(
  state: HarborState,
  lobby: string,
  { filter, sort, limit, after }: Wanted,
): DirectoryPage {
  const fitting = listedRooms(state, lobby).filter((room) => filter === undefined || fits(roomListing(room), filter));
  const keyOf = keys[sort];
  const sorted = fitting
    .map((room) => ({ room, key: keyOf(room) }))
    .sort((a, b) => a.key - b.key || (a.room.id < b.room.id ? -1 : 1));
  const from = after === undefined ? 0 : placeAfter(sorted, after);
  const page = sorted.slice(from, from + limit);
  const last = page.at(-1);
  return {
    rooms: page.map(({ room }) => roomListing(room)),
    total: sorted.length,
    ...(last !== undefined && from + limit < sorted.length && { next: `${last.key}_${last.room.id}` }),
  };
}

/** The cursor holds key and id of the last row, so that it counts also when that room is gone. */
function placeAfter(sorted: readonly { readonly room: Room; readonly key: number }[], cursor: string): number {
  const cut = cursor.indexOf("_");
  const [key, id] = [Number(cursor.slice(0, cut)), cursor.slice(cut + 1)];
  const place = sorted.findIndex((row) => row.key > key || (row.key === key && row.room.id > id));
  return place < 0 ? sorted.length : place;
}

export function listedRooms(state: HarborState, lobby: string): Room[] {
  const ids = state.lobbies.byId.get(lobby)?.rooms ?? [];
  return [...ids].flatMap((id) => state.rooms.byId.get(id) ?? []).filter(isListed);
}

const isListed = (room: Room): boolean => room.visibility !== "code-only";

/** Whether a listing is what somebody wants to see. */
export function fits(listing: RoomListing, filter: DirectoryFilter): boolean {
  const { kind, level, build, visibility, open, freePlaces, sideSize, latencyMs, settings } = filter;
  if (kind !== undefined && listing.kind !== kind) return false;
  if (level !== undefined && listing.level?.id !== level) return false;
  if (build !== undefined && listing.build !== build) return false;
  if (visibility !== undefined && listing.visibility !== visibility) return false;
  if (open !== undefined && listing.isOpen !== open) return false;
  if (freePlaces !== undefined && listing.capacity - listing.members < freePlaces) return false;
  if (latencyMs !== undefined && !(listing.latencyMs !== undefined && listing.latencyMs <= latencyMs)) return false;
  return fitsSides(listing, sideSize) && fitsSettings(listing, settings);
}

function fitsSides({ sides }: RoomListing, size: number | undefined): boolean {
  if (size === undefined) return true;
  return sides !== undefined && Object.values(sides).every(({ most }) => most === size);
}

function fitsSettings(listing: RoomListing, wanted: DirectoryFilter["settings"]): boolean {
  return Object.entries(wanted ?? {}).every(
    ([key, value]) => Object.hasOwn(listing.settings, key) && listing.settings[key] === value,
  );
}

/** What a directory shows of a room after an event, undefined once it shows nothing of it. */
export interface ListingChange {
  readonly lobby: string;
  readonly room: RoomId;
  readonly listing: RoomListing | undefined;
}

/** Room events that no listing shows. */
const UNLISTED = new Set<RoomEvent["kind"]>([
  ...(["room.ready-set", "room.board-written", "room.board-erased", "room.swap-offered", "room.swapped"] as const),
  ...(["room.baton-passed", "room.baton-taken", "room.banned", "room.unbanned", "room.member-away"] as const),
  "room.member-back",
]);

/** How an event that was just applied changes the directory of a lobby. */
export function listingChange(state: HarborState, event: HarborEvent): ListingChange | undefined {
  if (!event.kind.startsWith("room.") || UNLISTED.has(event.kind as RoomEvent["kind"])) return undefined;
  const { room: id } = event as RoomEvent;
  const room = state.rooms.byId.get(id);
  if (room !== undefined) {
    return { lobby: room.lobby, room: id, listing: isListed(room) ? roomListing(room) : undefined };
  }
  return event.kind === "room.closed" ? { lobby: event.lobby, room: id, listing: undefined } : undefined;
}
