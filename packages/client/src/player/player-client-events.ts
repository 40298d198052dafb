import type {
  BoardingPass,
  LobbyNews,
  Missed,
  Notice,
  OwnNews,
  Problem,
  RoomListing,
  RoomNews,
  Talk,
  TicketView,
  Welcome,
} from "@yellow-harbor/protocol";
import type { Picture } from "./picture.ts";

/** What a player's client tells. */
export interface PlayerEvents {
  /** The picture changed; `news` is absent when it came whole. */
  readonly change: { readonly picture: Picture; readonly news?: LobbyNews | RoomNews };
  /** The room may be boarded: address and pass. */
  readonly pass: BoardingPass;
  /** A member has passed a message to the room. */
  readonly relayed: { readonly from: string; readonly body: unknown };
  /** Somebody has said something in the lobby. */
  readonly talk: Pick<Talk, "lobby" | "from" | "name" | "text">;
  /** An operator has something to say. */
  readonly notice: Pick<Notice, "to" | "text">;
  /** The directory that is followed has changed; the whole of it as it is now. */
  readonly directory: { readonly rooms: readonly RoomListing[]; readonly total: number };
  /** Round trip of the last beat, by the client's own clock, in milliseconds. */
  readonly echo: { readonly roundTripMs: number };
  /** The search one is in, or is asked to join, as it is now. */
  readonly ticket: TicketView;
  /** The search is over, and why. When it was matched, the picture of the room comes next. */
  readonly ticketEnded: Extract<OwnNews, { kind: "ticket-ended" }>;
  /** Put out of the room, or the room was closed; the picture is that of the lobby already. */
  readonly outOfRoom: Extract<OwnNews, { kind: "out-of-room" }>;
  /** The connection is lost; the place is kept for the grace, and the client tries again. */
  readonly lost: { readonly problem: Problem; readonly attempt: number; readonly inMs: number };
  /** Something that happened to the player while it was away; told once it is back, the oldest first. */
  readonly missed: Missed;
  readonly resumed: Welcome;
  /** It is over: said goodbye, put out, taken over or given up. */
  readonly ended: { readonly problem: Problem | undefined };
}
