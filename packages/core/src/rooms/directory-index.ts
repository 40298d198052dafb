import type { ConfigName, DirectorySort, RoomId, SettingValue, Visibility } from "@yellow-harbor/protocol";
import { medianLatency } from "./preference.ts";
import { sidesFull } from "./sides.ts";
import type { Room, RoomsState } from "./state.ts";
import { takesNow } from "./takes-now.ts";

/**
 * A listed room, with what a directory sorts and filters by worked out once for each change of it. A class, so that all
 * rows have one shape: a directory of thousands is gone through for each question.
 */
export class DirectoryRow {
  readonly room: Room;
  readonly lobby: ConfigName;
  readonly kind: ConfigName;
  readonly level: ConfigName | null;
  readonly build: string;
  readonly visibility: Visibility;
  readonly settings: ReadonlyMap<string, SettingValue>;
  readonly openedAtMs: number;
  readonly free: number;
  readonly isOpen: boolean;
  /** Median of its members, infinite while none was measured. */
  readonly latencyMs: number;
  /** What every side takes, 0 where there are none. */
  readonly sideSize: number;

  constructor(room: Room) {
    this.room = room;
    this.lobby = room.lobby;
    this.kind = room.kind;
    this.level = room.level?.id ?? null;
    this.build = room.build;
    this.visibility = room.visibility;
    this.settings = new Map(Object.entries(room.settings));
    this.openedAtMs = room.openedAtMs;
    this.free = room.capacity - room.members.size;
    this.isOpen = room.visibility !== "locked" && takesNow(room) && this.free > 0 && !sidesFull(room);
    this.latencyMs = medianLatency(room) ?? Number.POSITIVE_INFINITY;
    this.sideSize = room.ways.sides?.most ?? 0;
  }
}

type Order = "age" | "free" | "latency";

const keyOf: Readonly<Record<Order, (row: DirectoryRow) => number>> = {
  age: ({ openedAtMs }) => openedAtMs,
  free: ({ free }) => free,
  latency: ({ latencyMs }) => latencyMs,
};

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
    const before = this.#rows.get(id);
    const after = room === undefined || room.visibility === "code-only" ? undefined : new DirectoryRow(room);
    if (before === undefined && after === undefined) return;
    const lobby = (after ?? before)?.lobby ?? "";
    const sorted = this.#byLobby.get(lobby) ?? newLobby();
    this.#byLobby.set(lobby, sorted);
    for (const order of orders) {
      // A row that keeps its place is put there as it is now.
      if (before && after && keyOf[order](before) === keyOf[order](after)) {
        const { rows } = sorted[order];
        rows[sorted[order].place(keyOf[order](before), id)] = after;
        continue;
      }
      if (before) sorted[order].remove(before);
      if (after) sorted[order].add(after);
    }
    if (after) this.#rows.set(id, after);
    else this.#rows.delete(id);
  }
}
