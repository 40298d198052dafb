import { type HarborState, newHarborState } from "./state.ts";

/** Version of the snapshot's shape. A snapshot of another version is not read; the journal is replayed instead. */
export const SNAPSHOT_VERSION = 5;

// Maps and Sets are written as tagged arrays; no other value of the state is an array that starts with such a tag.
const MAP = "~map";
const SET = "~set";

export function writeSnapshot(state: HarborState): string {
  return JSON.stringify({ version: SNAPSHOT_VERSION, state }, (_key, value: unknown) => {
    if (value instanceof Map) return [MAP, ...value];
    if (value instanceof Set) return [SET, ...value];
    return value;
  });
}

/** The state of a snapshot, or undefined when it is of another version. */
export function readSnapshot(text: string): HarborState | undefined {
  const parsed = JSON.parse(text, (_key, value: unknown) => {
    if (!Array.isArray(value)) return value;
    if (value[0] === MAP) return new Map(value.slice(1) as [unknown, unknown][]);
    if (value[0] === SET) return new Set(value.slice(1));
    return value;
  }) as { version: number; state: HarborState };
  if (parsed.version !== SNAPSHOT_VERSION) return undefined;
  return { ...newHarborState(), ...parsed.state };
}
