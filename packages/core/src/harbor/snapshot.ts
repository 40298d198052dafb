import type { HarborState, KeptState } from "../model/state.ts";
import { rooms } from "../rooms/index.ts";
import { bringUp, OLDEST_SNAPSHOT_VERSION } from "./former-snapshots.ts";
import { wholeState } from "./new-state.ts";

/**
 * Version of the snapshot's shape. Snapshots of older ones are brought up to it. One that is of a newer shape, or damaged,
 * is not read, and the journal replayed instead, which is kept until a snapshot stands for it that can be read.
 */
export const SNAPSHOT_VERSION = 16;

// Maps and Sets are written as arrays with a tag in front. Players write what they like on boards: where an array of
// theirs starts with a text like a tag, that gets one more mark, which is taken off again.
const MARK = "~";
const MAP = "~map";
/** A Map whose values hold neither Maps nor Sets nor marks: they need not be looked through. Most of a state is that. */
const FLAT = "~flat";
const SET = "~set";
/** What many share, which is frozen, is written once and named by its number. */
const SHARED = "~shared";

interface Written {
  readonly version: number;
  readonly shared: readonly unknown[];
  readonly state: KeptState;
}

export function writeSnapshot(state: HarborState): string {
  const shared = new Map<object, number>();
  const { derived: _, seen: __, ...whole } = state;
  // What rooms are found by is worked out of their names again: a name that is erased from one is then nowhere else.
  const kept = { ...whole, rooms: { ...whole.rooms, byName: new Map() } };
  const plain = plainOf(kept, shared) as typeof kept;
  return JSON.stringify({ version: SNAPSHOT_VERSION, shared: [...shared.keys()], state: plain } satisfies Written);
}

/** The state of a snapshot, or undefined when it is of another version or no snapshot at all. */
export function readSnapshot(text: string): HarborState | undefined {
  const { version, shared, state } = parsed(text);
  if (version === undefined || shared === undefined || state === undefined) return undefined;
  if (version < OLDEST_SNAPSHOT_VERSION || version > SNAPSHOT_VERSION) return undefined;
  const frozen = shared.map((one) => Object.freeze(one));
  const kept = revive(state, frozen) as KeptState;
  const now = bringUp(kept, version, SNAPSHOT_VERSION);
  rooms.also.nameAll(now);
  return wholeState(now);
}

function parsed(text: string): Partial<Written> {
  try {
    return (JSON.parse(text) as Partial<Written> | null) ?? {};
  } catch {
    // Damaged: what it stood for is in the journal, unless that was trimmed.
    return {};
  }
}

/** Numbers of what was written once, in order. */
type Shared = Map<object, number>;

/** The value without Maps and Sets. What holds none is not copied. */
function plainOf(value: unknown, shared: Shared): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (value instanceof Map) return plainMap(value, shared);
  if (value instanceof Set) return [SET, ...value];
  if (Array.isArray(value)) return plainList(value, shared);
  return plainRecord(value as Record<string, unknown>, shared);
}

function plainMap(map: ReadonlyMap<unknown, unknown>, shared: Shared): unknown[] {
  const list: unknown[] = [FLAT];
  for (const [key, one] of map) {
    const plain = plainOf(one, shared);
    if (plain !== one) list[0] = MAP;
    list.push([key, plain]);
  }
  return list;
}

function plainList(list: readonly unknown[], shared: Shared): readonly unknown[] {
  const plain = list.map((one) => plainOf(one, shared));
  const [first] = plain;
  if (typeof first === "string" && first.startsWith(MARK)) plain[0] = MARK + first;
  return plain.every((one, n) => one === list[n]) ? list : plain;
}

function plainRecord(record: Record<string, unknown>, shared: Shared): unknown {
  if (Object.isFrozen(record)) return [SHARED, numberOf(record, shared)];
  let copy: Record<string, unknown> | undefined;
  for (const key in record) {
    const plain = plainOf(record[key], shared);
    if (plain === record[key]) continue;
    copy ??= { ...record };
    copy[key] = plain;
  }
  return copy ?? record;
}

function numberOf(record: object, shared: Shared): number {
  const number = shared.get(record) ?? shared.size;
  shared.set(record, number);
  return number;
}

/** Puts Maps and Sets back, in place. Many times faster than a reviver, which is called for each value. */
function revive(value: unknown, shared: readonly unknown[]): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) return reviveList(value, shared);
  const record = value as Record<string, unknown>;
  for (const key in record) {
    const one = record[key];
    if (typeof one === "object" && one !== null) record[key] = revive(one, shared);
  }
  return record;
}

function reviveList(list: unknown[], shared: readonly unknown[]): unknown {
  const [tag] = list;
  if (tag === MAP || tag === FLAT) {
    const map = new Map<unknown, unknown>();
    for (let n = 1; n < list.length; n++) {
      const entry = list[n] as [unknown, unknown];
      map.set(entry[0], tag === FLAT ? entry[1] : revive(entry[1], shared));
    }
    return map;
  }
  if (tag === SHARED) return shared[list[1] as number];
  if (tag === SET) return new Set(list.slice(1));
  for (let n = 0; n < list.length; n++) list[n] = revive(list[n], shared);
  if (typeof tag === "string" && tag.startsWith(MARK)) list[0] = tag.slice(MARK.length);
  return list;
}
