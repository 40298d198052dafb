import type {
  ChangeByOperator,
  OpenByOperator,
  OpenedRoom,
  PrivateEntryList,
  ReservationList,
  ReservedFor,
  ReservePlace,
  Revised,
  RoomKindList,
} from "@yellow-harbor/protocol";
import { AdministrationClient } from "./administration-client.ts";

/** What may be left out has the default that the service documents. */
type Wish<T, Optional extends keyof T> = Omit<T, Optional> & Partial<Pick<T, Optional>>;

/** How a room was when whoever asks looked at it: when it has changed since, nothing is done (`revision-stale`). */
export interface BasedOn {
  /** Its revision. */
  readonly basedOn?: number;
}

/** What a game's own back end does to rooms without being a player. Rooms are named by id or code. */
export class RoomOperationsClient extends AdministrationClient {
  /** The kinds of rooms that there are, with what their settings may be. */
  roomKinds(): Promise<RoomKindList> {
    return this.http.call("roomKinds");
  }

  /** Opens a room with nobody in it; the first to join is its host. A repeat with the same `key` opens no other. */
  openRoom(wish: Wish<OpenByOperator, "keepMs">, { key }: { readonly key?: string } = {}): Promise<OpenedRoom> {
    return this.http.call("openRoom", {
      body: wish,
      ...(key !== undefined && { headers: { "idempotency-key": key } }),
    });
  }

  /** Name, capacity, visibility, level or free settings, as a merge patch. */
  changeRoom(room: string, change: ChangeByOperator, how: BasedOn = {}): Promise<Revised> {
    return this.http.call("changeRoom", given(room, change, how));
  }

  /** Brings a player in, out of the room it is in, also while the room plays and where it is locked. */
  putInRoom(room: string, player: string, how: BasedOn & { readonly side?: string } = {}): Promise<Revised> {
    const { side } = how;
    return this.http.call("putInRoom", given(room, { player, ...(side !== undefined && { side }) }, how));
  }

  /** Says for a member that it is ready, or is not. */
  readyMember(room: string, player: string, ready = true, how: BasedOn = {}): Promise<Revised> {
    return this.http.call("readyMember", given(room, { player, ready }, how));
  }

  /** Starts it; refused with everything that is missing. */
  startRoom(room: string, how: BasedOn = {}): Promise<Revised> {
    return this.http.call("startRoom", given(room, {}, how));
  }

  /** A countdown stops, a run is void, results are put away. */
  endRun(room: string, how: BasedOn & { readonly reason?: string } = {}): Promise<Revised> {
    const { reason } = how;
    return this.http.call("endRun", given(room, { ...(reason !== undefined && { reason }) }, how));
  }

  /** What only some of its members see. */
  privateEntries(room: string): Promise<PrivateEntryList> {
    return this.http.call("privateEntries", { params: { room } });
  }

  /** The places that it keeps for somebody, and for whom. */
  reservations(room: string): Promise<ReservationList> {
    return this.http.call("reservations", { params: { room } });
  }

  /** Keeps a place for an account or a player, for a minute unless it is said. */
  reservePlace(room: string, place: Wish<ReservePlace, "forMs">, how: BasedOn = {}): Promise<Revised> {
    return this.http.call("reservePlace", given(room, place, how));
  }

  cancelReservation(room: string, who: ReservedFor, how: BasedOn = {}): Promise<Revised> {
    return this.http.call("cancelReservation", given(room, { for: who }, how));
  }
}

const given = (room: string, body: object, { basedOn }: BasedOn) => ({
  params: { room },
  body,
  ...(basedOn !== undefined && { headers: { "if-match": `"${basedOn}"` } }),
});
