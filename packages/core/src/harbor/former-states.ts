import type { LevelView } from "@yellow-harbor/protocol";
import { type Instance, type Match, newPoolsState } from "../pools/state.ts";
import { FORMER_WAYS } from "../rooms/index.ts";
import type { Travel } from "../travel/state.ts";
import type { Destination } from "./destination.ts";
import type { HarborState } from "./state.ts";

/** What snapshots of version 6 share is the ways of rooms, from before there was more than one destination. */
export const waysOfSix = (ways: unknown): object => ({ ...FORMER_WAYS, ...(ways as object) });

type Place = Pick<Extract<Destination, { by: "dedicated" }>, "instance" | "address">;
const dedicated = (place: Place | null): Destination | null => place && { by: "dedicated", ...place };

/** Brings the state of a snapshot of version 6 into today's form, in place. */
export function stateOfSix(state: HarborState): void {
  for (const room of state.rooms.byId.values()) {
    Object.assign(room, { destination: dedicated(room.destination as Place | null) });
    Object.assign(room, { cameFrom: "gathering", spread: null, moves: 0 });
    for (const member of room.members.values()) {
      const instance = state.pools.instances.get(state.pools.byRoom.get(room.id) ?? "") as FormerInstance | undefined;
      const berth = instance?.match?.berths.get(member.id);
      Object.assign(member, { attention: null, vote: null, aboard: berth?.state === "taken" });
    }
  }
  const byText = [...state.rooms.ways.values()].map((ways) => [JSON.stringify(ways), ways] as const);
  Object.assign(state.rooms, { ways: new Map(byText) });
  for (const travel of state.travels.byRun.values()) modernTravel(travel);
  Object.assign(state.travels, { worlds: new Map() });
}

type FormerInstance = Instance & {
  readonly room: string | null;
  readonly match: Match | null;
  readonly lastRun: string | null;
};

/** Brings the state of a snapshot of version 7 into today's form, in place: each instance had one room, and one match. */
export function stateOfSeven({ pools }: HarborState): void {
  const ports = new Map<string, Map<number, number | null>>();
  for (const [key, freeAtMs] of pools.ports as unknown as Map<string, number | null>) {
    const colon = key.lastIndexOf(":");
    const known = ports.get(key.slice(0, colon)) ?? new Map<number, number | null>();
    ports.set(key.slice(0, colon), known.set(Number(key.slice(colon + 1)), freeAtMs));
  }
  const there = [...pools.instances.values()].filter(({ gone }) => !gone).length;
  const busySinceMs = new Map(
    there > 0 ? [["here", Math.min(...[...pools.instances.values()].map(({ orderedAtMs }) => orderedAtMs))]] : [],
  );
  Object.assign(pools, { meter: { ...newPoolsState().meter, busySinceMs } });
  Object.assign(pools, { ports, onMachine: new Map([["here", there]]) });
  for (const one of pools.instances.values()) {
    const { room, match, lastRun, ...rest } = one as FormerInstance;
    pools.instances.set(one.id, {
      ...rest,
      ...{ version: "1", machine: "here", region: null, ports: {}, isWatched: false, drainMs: 3_600_000 },
      ...{
        capacity: { rooms: 1, berths: 64, matches: "many" },
        startedAtMs: one.pid === null ? null : one.orderedAtMs,
      },
      announcedPid: null,
      stopping: one.state === "draining",
      holds: new Map(room === null ? [] : [[room, match]]),
      heldSinceMs: new Map(room === null ? [] : [[room, one.orderedAtMs]]),
      ...{ lastRuns: lastRun === null ? [] : [lastRun], played: lastRun === null ? 0 : 1 },
      ...{ differences: new Map(), heard: { out: 0, err: 0 } },
    });
  }
}

function modernTravel(travel: Travel): void {
  const former = travel as Travel & { readonly level: LevelView };
  Object.assign(former, {
    ...{ options: ["dedicated"], option: 0, why: "the room kind puts it first", tried: [], stragglers: "wait" },
    ...{ from: null, hosting: null, destination: dedicated(former.destination as Place | null) },
  });
  for (const one of travel.travellers.values()) Object.assign(one, { percent: one.arrived ? 100 : 0, trouble: null });
}
