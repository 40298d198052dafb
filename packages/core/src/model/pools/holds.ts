import type { PlayerId, RoomId, RunId } from "@yellow-harbor/protocol";
import type { Berth } from "../berth.ts";
import type { Instance, InstanceMatch, PoolsState } from "./state.ts";

/** The matches that an instance runs now. */
export const matchesOf = ({ holds }: Instance): InstanceMatch[] =>
  [...holds.values()].filter((match) => match !== null);

/** The match that it runs for a room, if any. */
export const matchFor = (instance: Instance | undefined, room: RoomId): InstanceMatch | undefined =>
  instance?.holds.get(room) ?? undefined;

export const matchOfRun = (instance: Instance, run: RunId): InstanceMatch | undefined =>
  matchesOf(instance).find((match) => match.run === run);

/** The match in which a player has a berth; one that it has not left, when there are several. */
export function matchWith(instance: Instance, player: PlayerId): InstanceMatch | undefined {
  const all = matchesOf(instance).filter(({ berths }) => berths.has(player));
  return all.find(({ berths }) => berths.get(player)?.state !== "left") ?? all[0];
}

/** Berths that are kept or taken, in all its matches. */
export const berthsKept = (instance: Instance): Berth[] =>
  matchesOf(instance).flatMap(({ berths }) => [...berths.values()].filter(({ state }) => state !== "left"));

/** Whether it may be given one more room with so many players. */
export function hasPlaceFor(instance: Instance, players: number): boolean {
  const { holds, capacity, played } = instance;
  if (capacity.matches === "one" && (played > 0 || holds.size > 0)) return false;
  if (holds.size >= capacity.rooms) return false;
  return (holds.size === 0 ? 0 : berthsKept(instance).length) + players <= capacity.berths;
}

/** Nobody has any part in it. */
export const isIdle = ({ holds }: Instance): boolean => holds.size === 0;

/** It drains, and has not been told to stop: it can be taken back. */
export const isDraining = ({ state, stopping, exiting, gone }: Instance): boolean =>
  state === "draining" && !stopping && !exiting && !gone;

/** The instance that a room holds. */
export function heldBy(pools: PoolsState, room: RoomId): Instance | undefined {
  const id = pools.byRoom.get(room);
  return id === undefined ? undefined : pools.instances.get(id);
}
