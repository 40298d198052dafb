import type { ConfigName } from "@yellow-harbor/protocol";
import type { BuildEvent } from "../builds/events.ts";
import type { LobbyEvent } from "../lobbies/events.ts";
import type { MachineEvent } from "../machines/events.ts";
import type { PlanEvent } from "../planner/events.ts";
import type { PlayerEvent } from "../players/events.ts";
import type { PoolEvent } from "../pools/events.ts";
import type { QueueEvent } from "../queues/events.ts";
import type { RoomEvent } from "../rooms/events.ts";
import type { TravelEvent } from "../travel/events.ts";
import type { Entropy } from "./stamp.ts";

export type OwnEvent =
  | { readonly kind: "harbor.founded"; readonly codeKey: Entropy }
  /** The service was started anew: whoever was here is away, with `graceMs` in a lobby and the room's own in a room. */
  | { readonly kind: "harbor.recovered"; readonly graceMs: number }
  /** Rules of queues are others from here on. */
  | {
      readonly kind: "harbor.queues-changed";
      readonly changed: readonly ConfigName[];
      readonly gone: readonly ConfigName[];
    };

/** Everything that can have happened. What `apply` needs is in the event: replaying never reads rules, clock or chance. */
export type HarborEvent =
  | OwnEvent
  | PlayerEvent
  | LobbyEvent
  | RoomEvent
  | TravelEvent
  | QueueEvent
  | BuildEvent
  | MachineEvent
  | PlanEvent
  | PoolEvent;
export type EventKind = HarborEvent["kind"];
