import type { ReservedFor } from "@yellow-harbor/protocol";
import type { Player } from "./players/state.ts";
import type { RoomsPart } from "./state.ts";

/** The player that something is kept for, or who is invited, where it is known here. */
export function ownerOf({ players }: Pick<RoomsPart, "players">, who: ReservedFor): Player | undefined {
  return players.byId.get("player" in who ? who.player : (players.byAccount.get(who.account) ?? ""));
}
