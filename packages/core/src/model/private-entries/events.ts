import type { BoardKey, PlayerId, PrivateReaders, RoomId } from "@yellow-harbor/protocol";

export type PrivateEntryEvent =
  | {
      readonly kind: "private.set";
      readonly room: RoomId;
      readonly owner: PlayerId;
      readonly key: BoardKey;
      readonly value: unknown;
      /** In bytes of JSON. */
      readonly size: number;
      readonly to: PrivateReaders;
      /** Who could read it until now, where that were others. */
      readonly from?: PrivateReaders;
    }
  | {
      readonly kind: "private.removed";
      readonly room: RoomId;
      readonly entries: readonly { readonly owner: PlayerId; readonly key: BoardKey; readonly to: PrivateReaders }[];
    }
  /** They are told anew what is for them: they have come, or have changed sides. */
  | { readonly kind: "private.shown"; readonly room: RoomId; readonly players: readonly PlayerId[] };
