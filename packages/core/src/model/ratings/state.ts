import type { AccountId, ConfigName, PlayerId, RoomId } from "@yellow-harbor/protocol";

export interface Rating {
  readonly rating: number;
  /** How uncertain it is: the paper's RD. */
  readonly deviation: number;
  readonly volatility: number;
  readonly matches: number;
  /** Of the last match. */
  readonly atMs: number;
}

export interface RatedPlayer {
  readonly player: PlayerId;
  /** null for a guest, who is not rated but counts among those that the others play against. */
  readonly account: AccountId | null;
}

/** A room that a match of a rated queue has become, until its result. */
export interface RatedRoom {
  readonly queue: ConfigName;
  readonly sides: readonly (readonly RatedPlayer[])[];
}

export interface RatingsState {
  /** By queue, then by account; whoever has not played for longest stands first. */
  readonly byQueue: Map<ConfigName, Map<AccountId, Rating>>;
  readonly rooms: Map<RoomId, RatedRoom>;
}

export const newRatingsState = (): RatingsState => ({ byQueue: new Map(), rooms: new Map() });
