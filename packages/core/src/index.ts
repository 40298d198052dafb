import { bans } from "./bans/index.ts";
import { builds } from "./builds/index.ts";
import { lobbies } from "./lobbies/index.ts";
import { machines } from "./machines/index.ts";
import { parties } from "./parties/index.ts";
import { planner } from "./planner/index.ts";
import { pools } from "./pools/index.ts";
import { privateEntries } from "./private-entries/index.ts";
import { queues } from "./queues/index.ts";
import { ratings } from "./ratings/index.ts";
import { relations } from "./relations/index.ts";
import { rooms } from "./rooms/index.ts";
import { travel } from "./travel/index.ts";

export { nextDeadline } from "./deadlines/index.ts";
export { OLDEST_SNAPSHOT_VERSION } from "./harbor/former-snapshots.ts";
export { type AppliedEvent, Harbor, type Listener, type Outcome } from "./harbor/harbor.ts";
export { History } from "./harbor/history.ts";
export { invariantViolations } from "./harbor/invariants.ts";
export { SNAPSHOT_VERSION } from "./harbor/snapshot.ts";
export { inTodaysForm, readEvent, type WrittenEvent, writeEvent } from "./harbor/written-event.ts";
export {
  ApartMatcher,
  type Entrant,
  EXAMINED_AGAIN,
  entrantOf,
  faultsOfRules,
  type Match,
  type MatchAttributes,
  MatchPool,
  type MatchQuality,
  type MatchRules,
  qualityOf,
  REGIONS_MAX,
  type Row as WaitingRow,
  type RuleFault,
  type SearchingParty,
  sidesOf,
  type TicketNeed,
} from "./matching/index.ts";
export type { Command, QueueChange } from "./model/command.ts";
export type {
  Effect,
  FleetEffect,
  InstanceEffect,
  LookForMatches,
  OfferedAddress,
  ProbeWorld,
} from "./model/effect.ts";
export type { EventKind, HarborEvent } from "./model/event.ts";
export type { FriendsChange } from "./model/friends-change.ts";
export type { Latency } from "./model/latency.ts";
export type { ListingChange } from "./model/listing-change.ts";
export type { Measure } from "./model/machines/state.ts";
export { ownAttributes } from "./model/players/attributes.ts";
export type { Heard, UsedToken } from "./model/players/commands.ts";
export type { Identity, Player } from "./model/players/state.ts";
export type { Named, OutputEvent } from "./model/pools/commands.ts";
export type { Instance, OwedPass } from "./model/pools/state.ts";
export type { Push } from "./model/push.ts";
export type { QueueRules } from "./model/queues/rules.ts";
export type { RatingRules } from "./model/ratings/rules.ts";
export type { Rating } from "./model/ratings/state.ts";
export { isDeafTo, knows, relationsOf } from "./model/relations/known.ts";
export type { ReplyTo, WelcomeState } from "./model/replies.ts";
export type { OperatorRoomCommand } from "./model/rooms/commands.ts";
export { audienceOf, type Room, runOf } from "./model/rooms/state.ts";
export type { HarborRules, LevelRules } from "./model/rules.ts";
export { settingFault } from "./model/setting-fault.ts";
export { type Entropy, type Random, randomFrom, type Stamp } from "./model/stamp.ts";
export type { HarborState } from "./model/state.ts";
export type { Probed } from "./model/travel/commands.ts";
export { scheduledId } from "./planner/windows.ts";
export { backOffMs, type Lower, percentile, planOf, stepOf } from "./planning/index.ts";
export type { PlanWindow } from "./planning/plan.ts";
export { compareBuilds } from "./pools/fit.ts";
export { roomKinds } from "./rooms/settings/kinds.ts";
export { regionViews } from "./rooms/settings/regions.ts";

export const { lobby: lobbyView, summary: lobbySummary } = lobbies.views;
export const { party: partyView } = parties.views;
export const { allIn: privateEntriesIn } = privateEntries.views;
export const {
  friends: friendsOf,
  change: friendsChange,
  relations: relationsView,
  blocked: blockedViews,
} = relations.views;
export const { room: roomView, listing: roomListing, level: levelView } = rooms.views;
export const { page: directoryPage, isCursor: isDirectoryCursor } = rooms.directory;
export const { moderated: moderatedRoom, harborOfCode } = rooms;
export const { fits, fittingListings, listedRooms, listingChange } = rooms.directory;
export const { room: explainRoom, join: explainJoin } = rooms.explain;
export const { travel: explainTravel } = travel.explain;
export const { queuesOf, ticket: ticketView, match: matchView, summary: queueSummary } = queues.views;
export const { page: ratingPage } = ratings.views;
export const { sides: ratedSides, unrated, expectedScore } = ratings.method;
export const { ticket: explainTicket, match: explainMatch } = queues.explain;
export const { passSlice: PASS_SLICE } = queues;
export const {
  instance: instanceView,
  explain: explainInstance,
  costs: costsView,
  relayDoor,
  effectsOn: recoveryEffects,
} = pools.views;
export const { page: banPage, ban: banView } = bans.views;
export const { builds: buildViews, spec: specOf } = builds.views;
export const { machines: machineViews } = machines.views;
export const { pool: poolView } = planner.views;
