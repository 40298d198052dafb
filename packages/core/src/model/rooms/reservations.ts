import type { AccountId, PlayerId, ReservedFor, SideName } from "@yellow-harbor/protocol";

/** A place that is kept for somebody until then. */
export interface Reservation {
  readonly for: ReservedFor;
  /** What it is shown as. */
  readonly name: string | null;
  readonly side: SideName | null;
  readonly untilMs: number;
  /** The member who invites; absent when an operator keeps the place. */
  readonly by?: { readonly id: PlayerId; readonly name: string };
}

export type Reservations = ReadonlyMap<string, Reservation>;

export const reservationKey = (one: ReservedFor): string =>
  "account" in one ? `account:${one.account}` : `player:${one.player}`;

interface Coming {
  readonly id: PlayerId;
  readonly identity?: { readonly account: AccountId } | null;
}

/** The place that is kept for a player: for its account, or for the player itself. */
export function reservationOf(
  { reservations }: { readonly reservations: Reservations },
  { id, identity }: Coming,
): Reservation | undefined {
  // Most rooms keep none, and quick-join looks at many.
  if (reservations.size === 0) return undefined;
  const byAccount = identity == null ? undefined : reservations.get(reservationKey({ account: identity.account }));
  return byAccount ?? reservations.get(reservationKey({ player: id }));
}

interface Places {
  readonly capacity: number;
  readonly members: { readonly size: number };
  readonly reservations: Reservations;
}

/** Places that are neither taken nor kept for somebody. */
export const openPlaces = ({ capacity, members, reservations }: Places): number =>
  capacity - members.size - reservations.size;

/** When the next of the reservations ends; undefined when there is none. */
export const nextEndOf = (reservations: Reservations): number | undefined =>
  reservations.size === 0 ? undefined : Math.min(...[...reservations.values()].map(({ untilMs }) => untilMs));
