import type { Instance, Meter } from "../model/pools/state.ts";

/** So many rooms are kept on the meter, those that let go of an instance last. */
const ROOMS_METERED = 1_000;

export const buildKey = ({ build, version }: Pick<Instance, "build" | "version">): string => `${build} ${version}`;

/** How long a process has run so far, or has run in all, in milliseconds. */
export const ranMs = ({ startedAtMs }: Instance, at: number): number =>
  startedAtMs === null ? 0 : Math.max(0, at - startedAtMs);

/** Its process is gone: what it has run for goes on the meter. */
export function meterInstance(meter: Meter, instance: Instance, at: number): void {
  const ms = ranMs(instance, at);
  add(meter.byPool, instance.pool, ms);
  add(meter.byBuild, buildKey(instance), ms);
}

/** A machine begins to run something, or runs nothing any more. */
export function meterMachine({ byMachine, busySinceMs }: Meter, machine: string, running: number, at: number): void {
  const since = busySinceMs.get(machine);
  if (running > 0) {
    if (since === undefined) busySinceMs.set(machine, at);
    return;
  }
  if (since !== undefined) add(byMachine, machine, at - since);
  busySinceMs.delete(machine);
}

/** A room lets go: of an instance that serves several rooms at once it has had a part. */
export function meterRoom({ byRoom }: Meter, instance: Instance, room: string, at: number): void {
  add(byRoom, room, heldMs(instance, room, at));
  while (byRoom.size > ROOMS_METERED) byRoom.delete(byRoom.keys().next().value as string);
}

export function heldMs({ heldSinceMs, startedAtMs, capacity }: Instance, room: string, at: number): number {
  const since = heldSinceMs.get(room);
  if (since === undefined || startedAtMs === null) return 0;
  return Math.max(0, at - Math.max(since, startedAtMs)) / capacity.rooms;
}

const add = (map: Map<string, number>, key: string, ms: number) => void map.set(key, (map.get(key) ?? 0) + ms);
