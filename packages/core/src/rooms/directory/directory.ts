import type { DirectoryFilter, DirectorySort, RoomListing } from "@yellow-harbor/protocol";
import type { HarborEvent } from "../../model/event.ts";
import type { DirectoryPlace, DirectoryRow } from "../../model/indexes/directory-index.ts";
import type { ListingChange } from "../../model/listing-change.ts";
import type { RoomEvent } from "../../model/rooms/events.ts";
import { searchText } from "../../model/rooms/search-text.ts";
import type { Room } from "../../model/rooms/state.ts";
import type { RoomsPart } from "../../model/state.ts";
import { roomListing } from "../view.ts";
import { isWanted } from "./wanted.ts";

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

/** A page ends early when its rooms fill so many characters of JSON, and the next one goes on from there. */
const PAGE_LENGTH_MAX = 262_144;

const CURSOR = /^(-?\d+(?:\.\d+)?|inf)_(r_[0-9a-z]+)$/;

/** Whether a text can be the cursor of a page. */
export const isDirectoryCursor = (text: string): boolean => CURSOR.test(text);

/**
 * A page of a lobby's directory. Rooms that change between two pages may be missed or come twice; following has no such
 * gap. The cursor holds key and id of the last row, so that it counts also when that room is gone.
 */
export function directoryPage(state: RoomsPart, lobby: string, { filter, sort, limit, after }: Wanted): DirectoryPage {
  const { directory } = state.derived;
  const wants = filter === undefined ? () => true : rowFilter(filter);
  const page: DirectoryRow[] = [];
  const rooms: RoomListing[] = [];
  let length = 0;
  let hasMore = false;
  for (const row of directory.walk(lobby, sort, placeOf(after))) {
    if (!wants(row)) continue;
    const listing = roomListing(row.room);
    length += JSON.stringify(listing).length;
    hasMore = page.length === limit || (page.length > 0 && length > PAGE_LENGTH_MAX);
    if (hasMore) break;
    page.push(row);
    rooms.push(listing);
  }
  const last = page.at(-1);
  return {
    rooms,
    total: countOf(directory.rows(lobby), filter && wants),
    ...(last !== undefined && hasMore && { next: cursorOf(directory.placeOf(last, sort)) }),
  };
}

function countOf(rows: readonly DirectoryRow[], wants: ((row: DirectoryRow) => boolean) | undefined): number {
  if (wants === undefined) return rows.length;
  let count = 0;
  for (const row of rows) if (wants(row)) count += 1;
  return count;
}

const cursorOf = ({ key, id }: DirectoryPlace) => `${Number.isFinite(key) ? key : "inf"}_${id}`;

function placeOf(cursor: string | undefined): DirectoryPlace | undefined {
  const [, key = "", id = ""] = CURSOR.exec(cursor ?? "") ?? [];
  if (id === "") return undefined;
  return { key: key === "inf" ? Number.POSITIVE_INFINITY : Number(key), id };
}

/** What somebody wants to see, held against rows: what is cheap to tell comes first, and no listing is made for it. */
function rowFilter(filter: DirectoryFilter): (row: DirectoryRow) => boolean {
  const {
    kind,
    level,
    region,
    build,
    visibility,
    hasPassword,
    open,
    freePlaces = 0,
    sideSize,
    latencyMs,
    text,
    settings,
  } = filter;
  const looked = text === undefined ? undefined : searchText(text);
  const wanted = Object.entries(settings ?? {});
  const is = <T>(asked: T | undefined, found: T | null) => asked === undefined || found === asked;
  return (row) => {
    if (row.free < freePlaces || !is(open, row.isOpen) || !is(kind, row.kind) || !is(level, row.level)) return false;
    if (!is(hasPassword, row.hasPassword) || !is(region, row.region)) return false;
    if (!is(build, row.build) || !is(visibility, row.visibility) || !is(sideSize, row.sideSize)) return false;
    if (latencyMs !== undefined && row.latencyMs > latencyMs) return false;
    if (looked !== undefined && !row.text.includes(looked)) return false;
    return wanted.length === 0 || wanted.every(([key, value]) => isWanted(row.settings.get(key), value));
  };
}

/** Listings of all rooms that fit, the oldest first. */
export function fittingListings(state: RoomsPart, lobby: string, filter: DirectoryFilter | undefined): RoomListing[] {
  const rows = state.derived.directory.rows(lobby);
  return rows.filter(filter === undefined ? () => true : rowFilter(filter)).map(({ room }) => roomListing(room));
}

export function listedRooms(state: RoomsPart, lobby: string): Room[] {
  const ids = state.lobbies.byId.get(lobby)?.rooms ?? [];
  return [...ids].flatMap((id) => state.rooms.byId.get(id) ?? []).filter(isListed);
}

const isListed = (room: Room): boolean => room.visibility !== "code-only";

/** Whether a listing is what somebody wants to see. */
export function fits(listing: RoomListing, filter: DirectoryFilter): boolean {
  const { kind, build, visibility, open, freePlaces, sideSize, latencyMs, text, settings } = filter;
  if (kind !== undefined && listing.kind !== kind) return false;
  if (build !== undefined && listing.build !== build) return false;
  if (visibility !== undefined && listing.visibility !== visibility) return false;
  if (open !== undefined && listing.isOpen !== open) return false;
  if (freePlaces !== undefined && listing.capacity - listing.members - (listing.reserved ?? 0) < freePlaces)
    return false;
  if (latencyMs !== undefined && !(listing.latencyMs !== undefined && listing.latencyMs <= latencyMs)) return false;
  if (text !== undefined && !searchText(`${listing.name}\n${listing.host}`).includes(searchText(text))) return false;
  return (
    fitsPlace(listing, filter) &&
    fitsPassword(listing, filter) &&
    fitsSides(listing, sideSize) &&
    fitsSettings(listing, settings)
  );
}

const fitsPlace = (listing: RoomListing, { level, region }: DirectoryFilter): boolean =>
  (level === undefined || listing.level?.id === level) && (region === undefined || listing.region === region);

const fitsPassword = (
  { hasPassword = false }: { hasPassword?: boolean | undefined },
  filter: DirectoryFilter,
): boolean => filter.hasPassword === undefined || filter.hasPassword === hasPassword;

function fitsSides({ sides }: RoomListing, size: number | undefined): boolean {
  if (size === undefined) return true;
  return sides !== undefined && Object.values(sides).every(({ max }) => max === size);
}

function fitsSettings(listing: RoomListing, wanted: DirectoryFilter["settings"]): boolean {
  return Object.entries(wanted ?? {}).every(
    ([key, value]) => Object.hasOwn(listing.settings, key) && isWanted(listing.settings[key], value),
  );
}

const UNLISTED = new Set<RoomEvent["kind"]>([
  ...(["room.ready-set", "room.board-set", "room.board-removed", "room.swap-offered", "room.swapped"] as const),
  ...(["room.turn-passed", "room.turns-ended", "room.banned", "room.unbanned", "room.member-away"] as const),
  "room.member-back",
  "room.peers-measured",
]);

/** Whether a directory may show a room in another way after an event of it. */
export const isSeenInDirectory = (event: RoomEvent): boolean => !UNLISTED.has(event.kind);

/** How an event that was just applied changes the directory of a lobby. */
export function listingChange(state: RoomsPart, event: HarborEvent): ListingChange | undefined {
  if (!event.kind.startsWith("room.") || !isSeenInDirectory(event as RoomEvent)) return undefined;
  const { room: id } = event as RoomEvent;
  const room = state.rooms.byId.get(id);
  if (room !== undefined) {
    return { lobby: room.lobby, room: id, listing: isListed(room) ? roomListing(room) : undefined };
  }
  return event.kind === "room.closed" ? { lobby: event.lobby, room: id, listing: undefined } : undefined;
}
