import type { BoardKey, PlayerId, PrivateReaders, RoomId } from "@yellow-harbor/protocol";

export interface PrivateEntry {
  readonly owner: PlayerId;
  readonly key: BoardKey;
  readonly to: PrivateReaders;
  readonly value: unknown;
  /** In bytes of JSON. */
  readonly size: number;
  readonly revision: number;
}

export interface PrivateEntriesState {
  /** Only of rooms that have any; each by {@link entryKey}. */
  readonly byRoom: Map<RoomId, Map<string, PrivateEntry>>;
}

/** Owners choose their keys without knowing those of others. */
export const entryKey = (owner: PlayerId, key: BoardKey): string => `${owner} ${key}`;

export function newPrivateEntriesState(): PrivateEntriesState {
  return { byRoom: new Map() };
}
