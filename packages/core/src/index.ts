export { buildViews, specOf } from "./builds/index.ts";
export { costsView } from "./costs/index.ts";
export { nextDeadline } from "./deadlines/index.ts";
export type { Command } from "./harbor/command.ts";
export type { Effect, InstanceEffect, ProbeWorld } from "./harbor/effect.ts";
export type { EventKind, HarborEvent } from "./harbor/event.ts";
export { type Happening, Harbor, type Listener, type Outcome } from "./harbor/harbor.ts";
export type { Latency } from "./harbor/latency.ts";
export { Past } from "./harbor/past.ts";
export type { Push } from "./harbor/push.ts";
export type { HarborRules, LevelRules, LobbyRules, PoolRules, RoomKindRules, SeekPreference } from "./harbor/rules.ts";
export { SNAPSHOT_VERSION } from "./harbor/snapshot.ts";
export { faultsOf } from "./harbor/soundness.ts";
export { type Chance, chanceFrom, type Entropy, type Stamp } from "./harbor/stamp.ts";
export type { HarborState } from "./harbor/state.ts";
export { inTodaysForm, readEvent, type WrittenEvent, writeEvent } from "./harbor/written-event.ts";
export { lobbySummary, lobbyView } from "./lobbies/index.ts";
export { machineViews } from "./machines/index.ts";
export {
  type Entrant,
  enter,
  faultsOfRules,
  LOOKED_AT_AGAIN,
  type Match,
  type MatchAttributes,
  MatchPool,
  type MatchQuality,
  type MatchRules,
  qualityOf,
  REGIONS_MOST,
  type Row as WaitingRow,
  type RuleFault,
  type SearchingParty,
  sidesOf,
  type TicketNeed,
} from "./matching/index.ts";
export { backOffMs, type Lower, type PlanRules, percentile, planOf, poolView, stepOf } from "./planner/index.ts";
export type { PlayerPicture } from "./players/index.ts";
export {
  type Heard,
  type Instance,
  instanceView,
  type OwedPass,
  recoveryEffects,
  relayDoor,
} from "./pools/index.ts";
export { explainMatch, explainTicket, matchView, PASS_SLICE, queueSummary, ticketView } from "./queues/index.ts";
export type { QueueRules } from "./queues/rules.ts";
export {
  directoryPage,
  explainJoin,
  explainRoom,
  fits,
  fittingListings,
  isDirectoryCursor,
  type ListingChange,
  levelView,
  listedRooms,
  listingChange,
  roomListing,
  roomView,
} from "./rooms/index.ts";
export { type Room, runOf } from "./rooms/state.ts";
export type { Probed } from "./travel/commands.ts";
export { explainTravel } from "./travel/index.ts";
