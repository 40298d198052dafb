import type { PlayerArgs, PlayerId, RoomId } from "@yellow-harbor/protocol";

type PrivateAsk = "private.set" | "private.remove";

export type PrivateEntryCommand =
  | {
      [A in PrivateAsk]: { readonly do: A; readonly player: PlayerId; readonly args: PlayerArgs<A> };
    }[PrivateAsk]
  /** Somebody is no member any more: what it has written goes, and what only it could read. */
  | { readonly do: "private.drop-member"; readonly room: RoomId; readonly player: PlayerId }
  /** Other entries may be for them by now. */
  | { readonly do: "private.show"; readonly room: RoomId; readonly players: readonly PlayerId[] };
