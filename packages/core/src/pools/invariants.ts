import type { PoolsPart } from "../model/state.ts";

/** What must never be among instances, each in a sentence. */
export function poolViolations({ pools, seen: { rooms } }: PoolsPart): string[] {
  const live = [...pools.instances.values()].filter(({ gone }) => !gone);
  const taken = new Map<string, string>();
  const shared = live.flatMap(({ id, address, ports }) =>
    [address.port, ...Object.values(ports)].flatMap((port) => {
      const at = `${address.host}:${port}`;
      const other = taken.get(at);
      taken.set(at, id);
      return other === undefined ? [] : [`instance ${id}: ${at} is that of ${other} too`];
    }),
  );
  const lost = [...pools.byRoom].flatMap(([room, instance]) => [
    ...(rooms.room(room) ? [] : [`instance ${instance}: held for room ${room}, which is unknown`]),
    ...(pools.instances.get(instance)?.holds.has(room) ? [] : [`instance ${instance}: does not know of room ${room}`]),
  ]);
  const former = live.flatMap(({ id, holds, stopping }) =>
    [...holds.keys()].flatMap((room) => {
      if (stopping || pools.byRoom.get(room) === id) return [];
      const isTravelling = rooms.room(room)?.stage.phase === "travelling";
      return isTravelling ? [] : [`instance ${id}: held for room ${room}, which has arrived elsewhere`];
    }),
  );
  const crowded = live.flatMap(({ id, holds, capacity }) =>
    holds.size > capacity.rooms ? [`instance ${id}: held by ${holds.size} rooms of ${capacity.rooms}`] : [],
  );
  const idle = live.flatMap(({ id, state, holds }) =>
    state === "busy" && [...holds.values()].every((match) => match === null)
      ? [`instance ${id}: busy with nothing`]
      : [],
  );
  const counts = new Map<string, number>();
  for (const { pool } of live) counts.set(pool, (counts.get(pool) ?? 0) + 1);
  const miscounted = [...pools.live]
    .filter(([pool, count]) => (counts.get(pool) ?? 0) !== count)
    .map(([pool, count]) => `pool ${pool}: ${count} counted, ${counts.get(pool) ?? 0} there`);
  const perMachine = new Map<string, number>();
  for (const { machine } of live) perMachine.set(machine, (perMachine.get(machine) ?? 0) + 1);
  for (const [machine, count] of pools.onMachine) {
    const there = perMachine.get(machine) ?? 0;
    if (there !== count) miscounted.push(`machine ${machine}: ${count} counted, ${there} there`);
    const lines = [...(pools.loads.get(machine)?.lines.values() ?? [])].reduce((sum, many) => sum + many, 0);
    if (lines !== count) miscounted.push(`machine ${machine}: ${count} counted, ${lines} of all builds`);
  }
  return [...shared, ...lost, ...former, ...crowded, ...idle, ...miscounted];
}
