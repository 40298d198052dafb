import type { Deadlines } from "../deadlines/index.ts";
import type { BansState } from "./bans/state.ts";
import type { BuildsState } from "./builds/state.ts";
import type { Derived } from "./derived.ts";
import type { DueKind } from "./due.ts";
import type { FleetsState } from "./fleets/state.ts";
import type { LobbiesState } from "./lobbies/state.ts";
import type { MachinesState } from "./machines/state.ts";
import type { PartiesState } from "./parties/state.ts";
import type { PlansState } from "./planner/state.ts";
import type { PlayersState } from "./players/state.ts";
import type { PoolsState } from "./pools/state.ts";
import type { PrivateEntriesState } from "./private-entries/state.ts";
import type { QueuesState } from "./queues/state.ts";
import type { RatingsState } from "./ratings/state.ts";
import type { RelationsState } from "./relations/state.ts";
import type { RoomsState } from "./rooms/state.ts";
import type { Seen } from "./seen.ts";
import type { TravelsState } from "./travel/state.ts";

/** All state of one harbor. Plain data and Maps, so that a snapshot is a matter of writing it down. */
export interface HarborState {
  founded: boolean;
  readonly players: PlayersState;
  readonly bans: BansState;
  readonly lobbies: LobbiesState;
  readonly parties: PartiesState;
  readonly relations: RelationsState;
  readonly rooms: RoomsState;
  readonly privateEntries: PrivateEntriesState;
  readonly travels: TravelsState;
  readonly queues: QueuesState;
  readonly ratings: RatingsState;
  readonly builds: BuildsState;
  readonly machines: MachinesState;
  readonly fleets: FleetsState;
  readonly pools: PoolsState;
  readonly plans: PlansState;
  readonly deadlines: Deadlines<DueKind>;
  /** In no snapshot. */
  readonly derived: Derived;
  /** What its parts see of each other. In no snapshot. */
  readonly seen: Seen;
}

/** What a snapshot has of it. */
export type KeptState = Omit<HarborState, "derived" | "seen">;

/** What players, lobbies, rooms and travels may read and change. */
export type RoomsPart = Pick<
  HarborState,
  "players" | "relations" | "bans" | "lobbies" | "parties" | "rooms" | "privateEntries" | "travels" | "deadlines"
> & {
  readonly derived: Pick<Derived, "directory">;
  readonly seen: Pick<Seen, "queues" | "pools">;
};

/** What queues, and the ratings by their matches, may read and change. */
export type QueuesPart = Pick<HarborState, "queues" | "ratings" | "deadlines"> & {
  readonly derived: Pick<Derived, "waiting" | "queueCounts">;
  readonly seen: Pick<Seen, "rooms" | "pools">;
};

/** What pools may read and change, with the machines, builds and plans that belong to them. */
export type PoolsPart = Pick<HarborState, "pools" | "builds" | "machines" | "fleets" | "plans" | "deadlines"> & {
  readonly seen: Pick<Seen, "rooms" | "queues">;
};
