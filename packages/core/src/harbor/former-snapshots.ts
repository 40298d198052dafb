import { builds } from "../builds/index.ts";
import { newPartiesState } from "../model/parties/state.ts";
import type { MachineLoad } from "../model/pools/state.ts";
import { newPrivateEntriesState } from "../model/private-entries/state.ts";
import { newRatingsState } from "../model/ratings/state.ts";
import { newRelationsState } from "../model/relations/state.ts";
import type { KeptState } from "../model/state.ts";
import { pools } from "../pools/index.ts";
import { rooms } from "../rooms/index.ts";

const NO_INVITES = rooms.noInvites;

/** Turns the state of a snapshot of one version into that of the next. */
type Step = (state: KeptState) => KeptState;

/** By the version that a step begins with. What stands here is never changed or left out: files outlive releases. */
const steps: ReadonlyMap<number, Step> = new Map([
  [11, fromEleven],
  [12, fromTwelve],
  [13, fromThirteen],
  [14, fromFourteen],
  [15, fromFifteen],
]);

/** The oldest version of a snapshot that can be read. */
export const OLDEST_SNAPSHOT_VERSION = 11;

/** The state of a snapshot in the form of a later version. */
export function bringUp(state: KeptState, from: number, to: number): KeptState {
  let kept = state;
  for (let version = from; version < to; version++) kept = steps.get(version)?.(kept) ?? kept;
  return kept;
}

const NO_NEEDS = { cpus: 0, memoryMb: 0 };

/**
 * Builds said what they speak under another name; matches had no scores yet, instances no longest empty time, no needs and
 * no word on their place, rooms of queues one region at the most,
 * and plans no times.
 */
function fromEleven(state: KeptState): KeptState {
  for (const [id, instance] of state.pools.instances) {
    const holds = [...instance.holds].map(([room, match]) => [room, match && { ...match, scores: new Map() }] as const);
    state.pools.instances.set(id, {
      ...instance,
      holds: new Map(holds),
      emptyMs: null,
      needs: NO_NEEDS,
      placed: null,
      client: null,
    });
  }
  const loads = new Map<string, MachineLoad>();
  for (const { gone, machine, build } of state.pools.instances.values())
    if (!gone) loads.set(machine, pools.loadWith(loads.get(machine), { build, needs: NO_NEEDS }, 1));
  for (const plan of state.plans.byPool.values()) plan.windows = [];
  const { matches } = state.queues;
  for (const [id, match] of matches)
    matches.set(id, { ...match, regions: match.region === null ? [] : [match.region] });
  for (const { versions } of state.builds.byLine.values()) {
    for (const version of versions.values()) version.spec = builds.upcast(version.spec);
  }
  return {
    ...state,
    queues: { ...state.queues, regions: new Map() },
    pools: { ...state.pools, loads, idleSinceMs: new Map() },
    fleets: { orders: new Map(), returns: new Map(), failures: new Map() },
    machines: { ...state.machines, enrolled: new Map(), closed: new Map(), measured: new Map() },
  };
}

/** Nobody was rated yet, and leaving cost nothing. */
function fromTwelve(state: KeptState): KeptState {
  return { ...state, ratings: newRatingsState(), queues: { ...state.queues, leavers: new Map() } };
}

/** No place was kept for anybody, members could not invite others, and operators opened no rooms. */
function fromThirteen(state: KeptState): KeptState {
  const { policies } = state.rooms;
  const now = new Map([...policies.values()].map((policy) => [policy, Object.freeze({ ...NO_INVITES, ...policy })]));
  const byId = new Map(
    [...state.rooms.byId].map(([id, room]) => {
      const policy = now.get(room.policy) ?? Object.freeze({ ...NO_INVITES, ...room.policy });
      return [id, { ...room, policy, reservations: new Map(), keptUntilMs: null }] as const;
    }),
  );
  const shared = new Map([...now.values()].map((policy) => [JSON.stringify(policy), policy]));
  return { ...state, rooms: { ...state.rooms, byId, policies: shared, keptFor: new Map(), requests: new Map() } };
}

/** Parties were of one search, and nobody could look on. */
function fromFourteen(state: KeptState): KeptState {
  const byId = new Map(
    [...state.rooms.byId].map(([id, room]) => [id, { ...room, spectators: new Map(), series: null }] as const),
  );
  return { ...state, rooms: { ...state.rooms, byId }, parties: newPartiesState() };
}

/** Nobody knew anybody. */
function fromFifteen(state: KeptState): KeptState {
  return { ...state, relations: newRelationsState(), privateEntries: newPrivateEntriesState() };
}
