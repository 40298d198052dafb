import type {
  BoardingPass,
  Chat,
  DirectMessage,
  FriendView,
  InvitationView,
  LobbyUpdate,
  Missed,
  Notice,
  OwnUpdate,
  PartyInvitationView,
  PartyView,
  PrivateEntryView,
  Problem,
  RoomListing,
  RoomUpdate,
  TicketView,
  Welcome,
} from "@yellow-harbor/protocol";
import type { BrowsedRoom } from "./room-browser.ts";
import type { PlayerState } from "./state.ts";

/** What a player's client tells. */
export interface PlayerEvents {
  /** The state changed; `update` is absent when it came whole. */
  readonly change: { readonly state: PlayerState; readonly update?: LobbyUpdate | RoomUpdate };
  /** The room may be boarded: address and pass. */
  readonly pass: BoardingPass;
  /** A member has passed a message to the room. */
  readonly relayed: { readonly from: string; readonly body: unknown };
  /** A member has passed bytes to the room. */
  readonly relayedBytes: { readonly from: string; readonly body: Uint8Array };
  /** The service has refused something that has no reply, such as bytes that were to be relayed. */
  readonly refused: Problem;
  /** A member has passed something to one alone, for connecting directly. */
  readonly signal: { readonly from: string; readonly body: unknown };
  /** Somebody has said something in the lobby. */
  readonly chat: Pick<Chat, "lobby" | "from" | "name" | "text">;
  /** Somebody has said something to one alone. */
  readonly message: Pick<DirectMessage, "from" | "name" | "text">;
  /** An operator has something to say. */
  readonly notice: Pick<Notice, "to" | "text">;
  /** The directory that is followed has changed; the whole of it as it is now. */
  readonly directory: { readonly rooms: readonly RoomListing[]; readonly total: number };
  /** The rooms that are browsed, or how far they are, have changed; all of them as they are now, the nearest first. */
  readonly browsed: readonly BrowsedRoom[];
  /** The friends that are followed have changed; all who are in the harbor now. */
  readonly friends: readonly FriendView[];
  /** Round trip of the last heartbeat, by the client's own clock, in milliseconds. */
  readonly echo: { readonly roundTripMs: number };
  /** The search one is in, or is asked to join, as it is now. */
  readonly ticket: TicketView;
  /** The search is over, and why. When it was matched, the state of the room comes next. */
  readonly ticketEnded: Extract<OwnUpdate, { kind: "ticket-ended" }>;
  /** A room keeps a place for one. */
  readonly invited: InvitationView;
  /** It does so no longer, and why. */
  readonly invitationEnded: Extract<OwnUpdate, { kind: "invitation-ended" }>;
  /** The party as it is now, and what has changed; undefined once one is in none. */
  readonly party: Partial<Omit<Extract<OwnUpdate, { kind: "party-changed" }>, "kind" | "party">> & {
    readonly party: PartyView | undefined;
  };
  /** The private entries of the room that one may see have changed; all of them as they are now. */
  readonly privateEntries: readonly PrivateEntryView[];
  /** Out of the party, and why. */
  readonly outOfParty: Extract<OwnUpdate, { kind: "out-of-party" }>;
  readonly partyInvited: PartyInvitationView;
  readonly partyInvitationEnded: Extract<OwnUpdate, { kind: "party-invitation-ended" }>;
  /** In a room that one did not ask for: a match was made, the party's leader went there, or the game's back end says so. */
  readonly intoRoom: Extract<OwnUpdate, { kind: "into-room" }>;
  /** In another lobby, where an operator has moved one; the state is that of the lobby already. */
  readonly intoLobby: Extract<OwnUpdate, { kind: "into-lobby" }>;
  /** Kicked from the room, or the room was closed; the state is that of the lobby already. */
  readonly outOfRoom: Extract<OwnUpdate, { kind: "out-of-room" }>;
  /** The connection is lost; the place is kept for the grace, and the client tries again. */
  readonly lost: { readonly problem: Problem; readonly attempt: number; readonly inMs: number };
  /** Something that happened to the player while it was away; told once it is back, the oldest first. */
  readonly missed: Missed;
  readonly resumed: Welcome;
  /** It is over: said goodbye, kicked, taken over or given up. */
  readonly ended: { readonly problem: Problem | undefined };
}
