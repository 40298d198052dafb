import type { AccountId, PlayerArgs, PlayerId, SetRelations } from "@yellow-harbor/protocol";

type RelationAsk = "friends.hide" | "blocks.add" | "blocks.remove";

export type RelationCommand =
  | {
      [A in RelationAsk]: { readonly do: A; readonly player: PlayerId; readonly args: PlayerArgs<A> };
    }[RelationAsk]
  /** Nobody is to know, or to have blocked, a person whose data is erased. */
  | { readonly do: "friends.forget"; readonly account: AccountId | undefined; readonly players: readonly PlayerId[] }
  /** The game's back end says whom a player knows. */
  | { readonly do: "friends.set"; readonly player: PlayerId; readonly set: SetRelations };
