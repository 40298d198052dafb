import type { Fault } from "./fault.ts";
import type { Config } from "./schema.ts";
import { unknownName } from "./unknown-name.ts";

/** Where regions are listed, each that is named is one of them. */
export function regionFaults({ regions, machines, machineGroups, queues }: Config): Fault[] {
  if (Object.keys(regions).length === 0) return [];
  const unknown = (region: string, path: PropertyKey[]) => unknownName("region", region, regions, path);
  const ofMachines = (part: string, named: Readonly<Record<string, { region: string | null }>>) =>
    Object.entries(named).flatMap(([name, { region }]) =>
      region === null ? [] : unknown(region, [part, name, "region"]),
    );
  return [
    ...ofMachines("machines", machines),
    ...ofMachines("machineGroups", machineGroups),
    ...Object.entries(queues).flatMap(([name, { latency }]) =>
      (latency?.regions ?? []).flatMap((region, n) => unknown(region, ["queues", name, "latency", "regions", n])),
    ),
  ];
}

/** A queue that looks at latency plays in the regions that it names: some machine has to stand there, or name no region. */
export function outOfReach(
  { roomKinds, levels, pools, machines, machineGroups }: Config,
  queue: Config["queues"][string],
): string[] {
  const kind = roomKinds[queue.roomKind];
  const regions = queue.latency?.regions;
  if (regions === undefined || kind === undefined || kind.destinations.some((by) => by !== "dedicated")) return [];
  const named = kind.levels.flatMap((level) => pools[levels[level]?.pool ?? ""]?.machines ?? []);
  const own = [...new Set(named)].flatMap((name) => machines[name] ?? machineGroups[name] ?? []);
  if (own.length === 0 || own.some(({ region }) => region === null || regions.includes(region))) return [];
  const found = [...new Set(own.map(({ region }) => region))].join(", ");
  return [
    `no match could be played: the machines of the pools of room kind ${queue.roomKind} are in ${found}, and in none of these`,
  ];
}
