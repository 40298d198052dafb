import type { ConfigName, DirectorySort, RoomId, SettingValue, Visibility } from "@yellow-harbor/protocol";
import { medianLatency } from "../rooms/median-latency.ts";
import { openPlaces } from "../rooms/reservations.ts";
import { searchText } from "../rooms/search-text.ts";
import { sidesFull } from "../rooms/sides.ts";
import type { Room, RoomsState } from "../rooms/state.ts";
import { takesNow } from "../rooms/takes-now.ts";

/**
 * A listed room, with what a directory sorts and filters by worked out once for each change of it. A class, so that all
 * rows have one shape: a directory of thousands is gone through for each question.
 */
export class DirectoryRow {
  readonly room: Room;
  readonly lobby: ConfigName;
  readonly kind: ConfigName;
  readonly region: ConfigName | null;
  build = "";
  readonly openedAtMs: number;
  level: ConfigName | null = null;
  visibility: Visibility = "listed";
  hasPassword = false;
  settings: ReadonlyMap<string, SettingValue> = NO_SETTINGS;
  free = 0;
  isOpen = false;
  /** Median of its members, infinite while none was measured. */
  latencyMs = Number.POSITIVE_INFINITY;
  /** What every side takes, 0 where there are none. */
  readonly sideSize: number;
  /** Its name and that of its host, as a search has them. */
  text = "";
  #named = "";
  #settingsFrom: Room["settings"] | undefined;

  constructor(room: Room) {
    this.room = room;
    this.lobby = room.lobby;
    this.kind = room.kind;
    this.region = room.region ?? null;
    this.openedAtMs = room.openedAtMs;
    this.sideSize = room.policy.sides?.max ?? 0;
  }

  /** Brings it to what the room is like now. */
  refresh({ free, latency }: Readonly<Record<Order, number>>): void {
    const { room } = this;
    this.level = room.level?.id ?? null;
    this.visibility = room.visibility;
    this.hasPassword = room.password !== undefined;
    this.build = room.build;
    const named = `${room.name}\n${room.members.get(room.host ?? "")?.name ?? ""}`;
    if (named !== this.#named) {
      this.#named = named;
      this.text = searchText(named);
    }
    this.free = free;
    this.isOpen = room.visibility !== "locked" && takesNow(room) && this.free > 0 && !sidesFull(room);
    this.latencyMs = latency;
    // Settings are never changed in place.
    if (room.settings === this.#settingsFrom) return;
    this.#settingsFrom = room.settings;
    this.settings = new Map(Object.entries(room.settings));
  }
}

const NO_SETTINGS: ReadonlyMap<string, SettingValue> = new Map();

type Order = "age" | "free" | "latency";

const keyOf: Readonly<Record<Order, (row: DirectoryRow) => number>> = {
  age: ({ openedAtMs }) => openedAtMs,
  free: ({ free }) => free,
  latency: ({ latencyMs }) => latencyMs,
};

/** The keys that a room has now, whose row may still have others. */
const keysOf = (room: Room): Record<Order, number> => ({
  age: room.openedAtMs,
  free: openPlaces(room),
  latency: medianLatency(room) ?? Number.POSITIVE_INFINITY,
});

const orders = Object.keys(keyOf) as Order[];

/** Which order a sort goes along, and whether from its end. */
const sorts: Readonly<Record<DirectorySort, { readonly by: Order; readonly isReversed: boolean }>> = {
  oldest: { by: "age", isReversed: false },
  newest: { by: "age", isReversed: true },
  fullest: { by: "free", isReversed: false },
  emptiest: { by: "free", isReversed: true },
  latency: { by: "latency", isReversed: false },
};

/** Rows in the order of a key, ties by id. */
class SortedRows {
  readonly rows: DirectoryRow[] = [];
  readonly #key: (row: DirectoryRow) => number;

  constructor(key: (row: DirectoryRow) => number) {
    this.#key = key;
  }

  /** First place whose row is not before a key and id. */
  place(key: number, id: RoomId): number {
    let [low, high] = [0, this.rows.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      const row = this.rows[middle] as DirectoryRow;
      const its = this.#key(row);
      if (its < key || (its === key && row.room.id < id)) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  add(row: DirectoryRow): void {
    this.rows.splice(this.place(this.#key(row), row.room.id), 0, row);
  }

  remove(row: DirectoryRow): void {
    this.rows.splice(this.place(this.#key(row), row.room.id), 1);
  }
}

const newLobby = (): Record<Order, SortedRows> => ({
  age: new SortedRows(keyOf.age),
  free: new SortedRows(keyOf.free),
  latency: new SortedRows(keyOf.latency),
});

const NONE = newLobby();

/** A place in a directory: after the row with this key and id. */
export interface DirectoryPlace {
  readonly key: number;
  readonly id: RoomId;
}

/**
 * The listed rooms of each lobby, in every order that a directory is asked for in. Derived: kept up to date by the rooms
 * that events have touched, and in no snapshot.
 */
export class DirectoryIndex {
  readonly #byLobby = new Map<ConfigName, Record<Order, SortedRows>>();
  readonly #rows = new Map<RoomId, DirectoryRow>();
  readonly #touched = new Set<RoomId>();

  /** Says that a room may be listed in another way, or not at all. */
  touch(room: RoomId): void {
    this.#touched.add(room);
  }

  /** Brings the rows of touched rooms up to date: once for all events of a command. */
  settle(rooms: RoomsState): void {
    if (this.#touched.size === 0) return;
    for (const id of this.#touched) this.#refresh(id, rooms.byId.get(id));
    this.#touched.clear();
  }

  /** Rows of a lobby in an order, from a place on. */
  *walk(lobby: ConfigName, sort: DirectorySort, after?: DirectoryPlace): Generator<DirectoryRow> {
    const { by, isReversed } = sorts[sort];
    const sorted = (this.#byLobby.get(lobby) ?? NONE)[by];
    const { rows } = sorted;
    if (isReversed) {
      const from = after === undefined ? rows.length : sorted.place(after.key, after.id);
      for (let n = from - 1; n >= 0; n--) yield rows[n] as DirectoryRow;
      return;
    }
    let from = after === undefined ? 0 : sorted.place(after.key, after.id);
    if (after !== undefined && rows[from]?.room.id === after.id) from += 1;
    for (let n = from; n < rows.length; n++) yield rows[n] as DirectoryRow;
  }

  /** All rows of a lobby, in no order that means anything. */
  rows(lobby: ConfigName): readonly DirectoryRow[] {
    return (this.#byLobby.get(lobby) ?? NONE).age.rows;
  }

  placeOf(row: DirectoryRow, sort: DirectorySort): DirectoryPlace {
    return { key: keyOf[sorts[sort].by](row), id: row.room.id };
  }

  #refresh(id: RoomId, room: Room | undefined): void {
    const known = this.#rows.get(id);
    if (room === undefined || room.visibility === "code-only") {
      if (known === undefined) return;
      const sorted = this.#ordersOf(known.lobby);
      for (const order of orders) sorted[order].remove(known);
      this.#rows.delete(id);
      return;
    }
    const row = known ?? new DirectoryRow(room);
    const sorted = this.#ordersOf(row.lobby);
    const next = keysOf(room);
    // A row leaves an order by the key it has there, before it gets its new one. Most changes leave a room where it is.
    const moved = orders.filter((order) => known === undefined || keyOf[order](known) !== next[order]);
    if (known !== undefined) for (const order of moved) sorted[order].remove(known);
    row.refresh(next);
    for (const order of moved) sorted[order].add(row);
    this.#rows.set(id, row);
  }

  #ordersOf(lobby: ConfigName): Record<Order, SortedRows> {
    let sorted = this.#byLobby.get(lobby);
    if (sorted === undefined) {
      sorted = newLobby();
      this.#byLobby.set(lobby, sorted);
    }
    return sorted;
  }
}
