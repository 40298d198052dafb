import type { PartyId, PlayerArgs, PlayerAsk, PlayerId } from "@yellow-harbor/protocol";

export type PartyAsk = Extract<PlayerAsk, `party.${string}`>;

type Asked<A extends PartyAsk> = { readonly do: A; readonly player: PlayerId; readonly args: PlayerArgs<A> };

export type PartyCommand =
  | { [A in PartyAsk]: Asked<A> }[PartyAsk]
  /** A player may be in another room by now, or away, or here again. */
  | { readonly do: "party.check-member"; readonly player: PlayerId }
  /** A player is gone from the harbor. */
  | { readonly do: "party.drop-player"; readonly player: PlayerId }
  /** The leader may be lost for longer than it keeps leading. */
  | { readonly do: "party.check-leader"; readonly party: PartyId }
  /** Invitations have stood for as long as they may. */
  | { readonly do: "party.invitations-late"; readonly party: PartyId };
