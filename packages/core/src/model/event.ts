import type { ConfigName } from "@yellow-harbor/protocol";
import type { BanEvent } from "./bans/events.ts";
import type { BuildEvent } from "./builds/events.ts";
import type { FleetEvent } from "./fleets/events.ts";
import type { LobbyEvent } from "./lobbies/events.ts";
import type { MachineEvent } from "./machines/events.ts";
import type { PartyEvent } from "./parties/events.ts";
import type { PlanEvent } from "./planner/events.ts";
import type { PlayerEvent } from "./players/events.ts";
import type { PoolEvent } from "./pools/events.ts";
import type { PrivateEntryEvent } from "./private-entries/events.ts";
import type { QueueEvent } from "./queues/events.ts";
import type { RatingEvent } from "./ratings/events.ts";
import type { RelationEvent } from "./relations/events.ts";
import type { RoomEvent } from "./rooms/events.ts";
import type { TravelEvent } from "./travel/events.ts";

export type OwnEvent =
  | { readonly kind: "harbor.founded" }
  /** The service was started anew: whoever was here is away, with `graceMs` in a lobby and the room's own in a room. */
  | { readonly kind: "harbor.recovered"; readonly graceMs: number }
  /** Other rules hold from here on: what of them is other, and how much more. */
  | { readonly kind: "harbor.rules-changed"; readonly paths: readonly string[]; readonly more: number }
  /** Rules of queues are others from here on. */
  | {
      readonly kind: "harbor.queue-rules-changed";
      readonly changed: readonly ConfigName[];
      readonly gone: readonly ConfigName[];
    };

/** Events by capability. One that nothing else reads adds its own to it where it stands. */
export interface Events {
  harbor: OwnEvent;
  player: PlayerEvent;
  ban: BanEvent;
  lobby: LobbyEvent;
  party: PartyEvent;
  relation: RelationEvent;
  room: RoomEvent;
  privateEntry: PrivateEntryEvent;
  travel: TravelEvent;
  queue: QueueEvent;
  rating: RatingEvent;
  build: BuildEvent;
  machine: MachineEvent;
  fleet: FleetEvent;
  plan: PlanEvent;
  instance: PoolEvent;
}

/** Everything that can have happened. What `apply` needs is in the event: replaying never reads rules, clock or chance. */
export type HarborEvent = Events[keyof Events];
export type EventKind = HarborEvent["kind"];
