import type { ConfigName, MachineRules } from "@yellow-harbor/protocol";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";

/** What is known of a machine: of the configuration's by name, of one that has joined by its group. */
export function machineRules(
  { machines }: Pick<PoolsPart, "machines">,
  rules: HarborRules,
  id: ConfigName,
): MachineRules | undefined {
  const named = rules.machines.get(id);
  const own = machines.enrolled.get(id);
  const group = own && rules.machineGroups.get(own.group);
  if (named !== undefined || own === undefined || group === undefined) return named;
  const { region, max, cpus, memoryMb, preemptible, pricePerSecond } = group;
  return { driver: "agent", host: own.host, region, max, cpus, memoryMb, preemptible, pricePerSecond };
}

/** Names of all machines that there are. */
export const machineNames = ({ machines }: Pick<PoolsPart, "machines">, rules: HarborRules): ConfigName[] => [
  ...rules.machines.keys(),
  ...machines.enrolled.keys(),
];

/** The machines that a name stands for: those of a group, or the one. */
export function machinesNamed(
  { machines }: Pick<PoolsPart, "machines">,
  rules: HarborRules,
  name: ConfigName,
): ConfigName[] {
  if (!rules.machineGroups.has(name)) return [name];
  return [...machines.enrolled.values()].filter(({ group }) => group === name).map(({ machine }) => machine);
}
