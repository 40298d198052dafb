import type { PassId, PlayerId } from "@yellow-harbor/protocol";

/** One player's place where a room goes: on an instance, or in the world of a member. */
export interface Berth {
  readonly player: PlayerId;
  readonly name: string;
  readonly place: number;
  /** Id of the one pass that takes this berth. */
  readonly pass: PassId;
  /** Of a berth that was added to a match under way: until when the pass counts. */
  readonly expiresAtMs: number | null;
  state: "reserved" | "taken" | "left";
  /** It looks on, and is no player of the match. */
  readonly spectator?: true;
  /** The instance has removed it. */
  kicked?: true;
  /** The instance's own mark for the boarding that took the berth. */
  attempt: string | null;
}
