import type { LobbyEvent } from "../lobbies/events.ts";
import type { PlayerEvent } from "../players/events.ts";
import type { PoolEvent } from "../pools/events.ts";
import type { RoomEvent } from "../rooms/events.ts";
import type { TravelEvent } from "../travel/events.ts";
import type { Entropy } from "./stamp.ts";

export type FoundedEvent = { readonly kind: "harbor.founded"; readonly codeKey: Entropy };

/** Everything that can have happened. What `apply` needs is in the event: replaying never reads rules, clock or chance. */
export type HarborEvent = FoundedEvent | PlayerEvent | LobbyEvent | RoomEvent | TravelEvent | PoolEvent;
export type EventKind = HarborEvent["kind"];
