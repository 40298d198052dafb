import { type HarborState, newHarborState } from "./state.ts";

/** Version of the snapshot's shape. A snapshot of another version is not read; the journal is replayed instead. */
export const SNAPSHOT_VERSION = 6;

// Maps and Sets are written as arrays with a tag in front. Players write what they like on boards: where an array of
// theirs starts with a text like a tag, that gets one more mark, which is taken off again.
const MARK = "~";
const MAP = "~map";
const SET = "~set";

export const writeSnapshot = (state: HarborState): string =>
  JSON.stringify({ version: SNAPSHOT_VERSION, state: plainOf(state) });

/** The state of a snapshot, or undefined when it is of another version. */
export function readSnapshot(text: string): HarborState | undefined {
  const parsed = JSON.parse(text) as { version: number; state: HarborState };
  if (parsed.version !== SNAPSHOT_VERSION) return undefined;
  return { ...newHarborState(), ...(revive(parsed.state) as HarborState) };
}

/** The value without Maps and Sets. What holds none is not copied: most of a state is that. */
function plainOf(value: unknown): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (value instanceof Map) {
    const list: unknown[] = [MAP];
    for (const [key, one] of value) list.push([key, plainOf(one)]);
    return list;
  }
  if (value instanceof Set) return [SET, ...value];
  if (Array.isArray(value)) return plainList(value);
  return plainRecord(value as Record<string, unknown>);
}

function plainList(list: readonly unknown[]): readonly unknown[] {
  const plain = list.map(plainOf);
  const [first] = plain;
  if (typeof first === "string" && first.startsWith(MARK)) plain[0] = MARK + first;
  return plain;
}

function plainRecord(record: Record<string, unknown>): Record<string, unknown> {
  let copy: Record<string, unknown> | undefined;
  for (const key in record) {
    const plain = plainOf(record[key]);
    if (plain === record[key]) continue;
    copy ??= { ...record };
    copy[key] = plain;
  }
  return copy ?? record;
}

/** Puts Maps and Sets back, in place. Many times faster than a reviver, which is called for each value. */
function revive(value: unknown): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) return reviveList(value);
  const record = value as Record<string, unknown>;
  for (const key in record) {
    const one = record[key];
    if (typeof one === "object" && one !== null) record[key] = revive(one);
  }
  return record;
}

function reviveList(list: unknown[]): unknown {
  const [tag] = list;
  if (tag === MAP) {
    const map = new Map<unknown, unknown>();
    for (let n = 1; n < list.length; n++) {
      const [key, one] = list[n] as [unknown, unknown];
      map.set(key, revive(one));
    }
    return map;
  }
  if (tag === SET) return new Set(list.slice(1));
  for (let n = 0; n < list.length; n++) list[n] = revive(list[n]);
  if (typeof tag === "string" && tag.startsWith(MARK)) list[0] = tag.slice(MARK.length);
  return list;
}
