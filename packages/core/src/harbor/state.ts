import { type BuildsState, newBuildsState } from "../builds/state.ts";
import { type Deadlines, newDeadlines } from "../deadlines/index.ts";
import { type LobbiesState, newLobbiesState } from "../lobbies/state.ts";
import { type MachinesState, newMachinesState } from "../machines/state.ts";
import { newPlansState, type PlansState } from "../planner/state.ts";
import { newPlayersState, type PlayersState } from "../players/state.ts";
import { newPoolsState, type PoolsState } from "../pools/state.ts";
import { newQueuesState, type QueuesState } from "../queues/state.ts";
import { newRoomsState, type RoomsState } from "../rooms/state.ts";
import { newTravelsState, type TravelsState } from "../travel/state.ts";
import { type Derived, newDerived } from "./derived.ts";

/** All state of one harbor. Plain data and Maps, so that a snapshot is a matter of writing it down. */
export interface HarborState {
  founded: boolean;
  readonly players: PlayersState;
  readonly lobbies: LobbiesState;
  readonly rooms: RoomsState;
  readonly travels: TravelsState;
  readonly queues: QueuesState;
  readonly builds: BuildsState;
  readonly machines: MachinesState;
  readonly pools: PoolsState;
  readonly plans: PlansState;
  readonly deadlines: Deadlines;
  /** In no snapshot. */
  readonly derived: Derived;
}

export function newHarborState(): HarborState {
  return {
    founded: false,
    players: newPlayersState(),
    lobbies: newLobbiesState(),
    rooms: newRoomsState(),
    travels: newTravelsState(),
    queues: newQueuesState(),
    builds: newBuildsState(),
    machines: newMachinesState(),
    pools: newPoolsState(),
    plans: newPlansState(),
    deadlines: newDeadlines(),
    derived: newDerived(),
  };
}
