import type { LobbyUpdate, OwnUpdate, Patch, PlayerId, RoomUpdate } from "@yellow-harbor/protocol";
import type { OwedPass } from "./pools/state.ts";

/**
 * What somebody has to be told once the events are durable. Update of a room or lobby is the same for every receiver, so
 * that it can be encoded once; `to` holds exactly those who have the view that the patch is for.
 */
export type Push =
  | {
      readonly scope: "lobby";
      readonly id: string;
      readonly to: readonly PlayerId[];
      readonly revision: number;
      readonly update: LobbyUpdate;
      readonly patch: Patch;
    }
  | {
      readonly scope: "room";
      readonly id: string;
      readonly to: readonly PlayerId[];
      readonly revision: number;
      readonly update: RoomUpdate;
      readonly patch: Patch;
    }
  | {
      readonly scope: "you";
      readonly to: PlayerId;
      readonly revision: number;
      readonly update: Exclude<OwnUpdate, { kind: "boarding-pass" }>;
    }
  /** Sent with a signed pass made from the owed one. */
  | { readonly scope: "pass"; readonly to: PlayerId; readonly pass: OwedPass };

type OwnPush = Extract<Push, { scope: "you" }>;

/** A push as a capability has it: the harbor adds the count of what has befallen the player so far. */
export type Delivery = Exclude<Push, OwnPush> | Omit<OwnPush, "revision">;

/** Update for one player alone. */
export const toOne = (to: PlayerId, update: OwnPush["update"]): Omit<OwnPush, "revision"> => ({
  scope: "you",
  to,
  update,
});
