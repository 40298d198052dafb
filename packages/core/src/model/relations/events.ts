import type { AccountId, PlayerId, ReservedFor } from "@yellow-harbor/protocol";
import type { Blocked } from "./state.ts";

export type RelationEvent =
  /** What the game's back end says of whom a player knows and has blocked; what is absent stays. */
  | {
      readonly kind: "friends.set";
      readonly player: PlayerId;
      readonly friends?: readonly AccountId[];
      readonly blocked?: readonly AccountId[];
    }
  | { readonly kind: "friends.hidden"; readonly player: PlayerId; readonly hidden: boolean }
  | { readonly kind: "blocks.added"; readonly player: PlayerId; readonly blocked: Blocked }
  | { readonly kind: "blocks.removed"; readonly player: PlayerId; readonly who: ReservedFor };
