import type { BoardingPass, LobbyNews, OwnNews, Problem, RoomNews, Welcome } from "@yellow-harbor/protocol";
import type { Picture } from "./picture.ts";

/** What a player's client tells. */
export interface PlayerEvents {
  /** The picture changed; `news` is absent when it came whole. */
  readonly change: { readonly picture: Picture; readonly news?: LobbyNews | RoomNews };
  /** The room may be boarded: address and pass. */
  readonly pass: BoardingPass;
  /** A member has passed a message to the room. */
  readonly relayed: { readonly from: string; readonly body: unknown };
  /** Put out of the room, or the room was closed; the picture is that of the lobby already. */
  readonly outOfRoom: Extract<OwnNews, { kind: "out-of-room" }>;
  /** The connection is lost; the place is kept for the grace, and the client tries again. */
  readonly lost: { readonly problem: Problem; readonly attempt: number; readonly inMs: number };
  readonly resumed: Welcome;
  /** It is over: said goodbye, put out, taken over or given up. */
  readonly ended: { readonly problem: Problem | undefined };
}
