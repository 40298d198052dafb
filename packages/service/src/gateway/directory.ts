import { fits, fittingListings, type Harbor, type ListingChange } from "@yellow-harbor/core";
import {
  type DirectoryFilter,
  type DirectoryUpdate,
  type PlayerArgs,
  type Problem,
  problem,
  type RoomId,
  type RoomListing,
} from "@yellow-harbor/protocol";
import type { Connection } from "./connection.ts";
import { Frame } from "./framing.ts";

/** Those who follow the same part of the same directory: what changes is worked out and encoded once for all of them. */
interface Group {
  readonly lobby: string;
  readonly filter: DirectoryFilter | undefined;
  readonly limit: number;
  /** Every room that fits, as it was told last. */
  readonly fitting: Map<RoomId, RoomListing>;
  /** Those of them that are shown: the first `limit`. */
  readonly shown: Set<RoomId>;
  readonly followers: Set<Connection>;
  readonly changed: Set<RoomId>;
  readonly gone: Set<RoomId>;
}

/** Different filters that are followed at once, by everybody and from one address. */
const FILTERS_MAX = 1_024;
const FILTERS_OF_ADDRESS = 64;
/** Bytes of JSON, about, that the first answer may have; the rooms behind it come as those before them go. */
const FIRST_BYTES = 262_144;

const tooManyFilters = problem(
  "too-costly",
  "Too many different filters are followed now; follow without one, or ask lobby.rooms for pages.",
);

/** The first so many of a directory, as far as one answer goes. */
function firstOf(listings: readonly RoomListing[], limit: number): Set<RoomId> {
  const shown = new Set<RoomId>();
  let bytes = 0;
  for (const listing of listings) {
    bytes += JSON.stringify(listing).length;
    if (shown.size === limit || (shown.size > 0 && bytes > FIRST_BYTES)) break;
    shown.add(listing.id);
  }
  return shown;
}

/** The directory as it is followed live: the state at one moment, then differences. */
export class DirectoryHub {
  readonly #groups = new Map<string, Group>();
  readonly #groupOf = new Map<Connection, string>();
  readonly #touched = new Set<Group>();

  get isFollowed(): boolean {
    return this.#groups.size > 0;
  }

  /**
   * Takes a connection in. `state` is what the directory was when the request was decided. Only the first of a group
   * starts from it: an existing group holds the same, kept current by every change spoken so far.
   */
  follow(
    connection: Connection,
    lobby: string,
    { filter, limit }: PlayerArgs<"lobby.follow">,
    state: readonly RoomListing[],
  ): { rooms: RoomListing[]; total: number } | { readonly refused: Problem } {
    this.unfollow(connection);
    const key = JSON.stringify([lobby, sorted(filter), limit]);
    let group = this.#groups.get(key);
    if (group === undefined) {
      if (filter !== undefined && !this.#mayHaveMore(connection)) return { refused: tooManyFilters };
      const fitting = new Map(state.map((listing) => [listing.id, listing]));
      const shown = firstOf(state, limit);
      const sets = { followers: new Set<Connection>(), changed: new Set<RoomId>(), gone: new Set<RoomId>() };
      group = { lobby, filter, limit, fitting, shown, ...sets };
      this.#groups.set(key, group);
    } else if (this.#touched.has(group)) {
      // Whoever was there before is sent what has gathered; the newcomer's state has it already.
      this.#tell(group);
    }
    group.followers.add(connection);
    this.#groupOf.set(connection, key);
    const { fitting } = group;
    return { rooms: [...group.shown].flatMap((id) => fitting.get(id) ?? []), total: fitting.size };
  }

  /** Every change is held against every filter that somebody follows: an address has its share of them, and all together too. */
  #mayHaveMore({ quota }: Connection): boolean {
    if (this.#groups.size >= FILTERS_MAX) return false;
    let own = 0;
    for (const { followers } of this.#groups.values()) {
      for (const follower of followers) if (follower.quota === quota) own += 1;
      if (own >= FILTERS_OF_ADDRESS) return false;
    }
    return true;
  }

  unfollow(connection: Connection): void {
    const key = this.#groupOf.get(connection);
    const group = this.#groups.get(key ?? "");
    this.#groupOf.delete(connection);
    group?.followers.delete(connection);
    if (key === undefined || group === undefined || group.followers.size > 0) return;
    this.#groups.delete(key);
    this.#touched.delete(group);
  }

  /** Takes a change that is durable. It is told with the next {@link flush}. */
  change({ lobby, room, listing }: ListingChange): void {
    for (const group of this.#groups.values()) {
      if (group.lobby !== lobby) continue;
      if (listing !== undefined && (group.filter === undefined || fits(listing, group.filter))) put(group, listing);
      else if (group.fitting.has(room)) take(group, room);
      else continue;
      this.#touched.add(group);
    }
  }

  flush(): void {
    for (const group of this.#touched) this.#tell(group);
  }

  #tell(group: Group): void {
    this.#touched.delete(group);
    const changed = [...group.changed].flatMap((id) => group.fitting.get(id) ?? []);
    const gone = [...group.gone];
    group.changed.clear();
    group.gone.clear();
    const update: DirectoryUpdate = { frame: "directory", changed, gone, total: group.fitting.size };
    const frame = new Frame(JSON.stringify(update));
    for (const follower of group.followers) follower.send(frame);
  }
}

/** What a new group starts from. */
export const directoryState = ({ state }: Harbor, lobby: string, filter: DirectoryFilter | undefined): RoomListing[] =>
  fittingListings(state, lobby, filter);

function put(group: Group, listing: RoomListing): void {
  group.fitting.set(listing.id, listing);
  if (!group.shown.has(listing.id) && group.shown.size >= group.limit) return;
  group.shown.add(listing.id);
  group.changed.add(listing.id);
  group.gone.delete(listing.id);
}

function take(group: Group, room: RoomId): void {
  group.fitting.delete(room);
  group.changed.delete(room);
  if (!group.shown.delete(room)) return;
  group.gone.add(room);
  // The next one that fits moves up.
  if (group.fitting.size <= group.shown.size) return;
  for (const [id, listing] of group.fitting) if (!group.shown.has(id)) return put(group, listing);
}

/** The same filter written in another order is the same filter. */
function sorted(filter: DirectoryFilter | undefined): unknown {
  const byKey = (value: object) => Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return filter === undefined ? [] : byKey({ ...filter, settings: byKey(filter.settings ?? {}) });
}
