import type { ConfigName, InstanceId } from "@yellow-harbor/protocol";
import type { MachineConfig } from "../config/schema.ts";
import { Simulated } from "../config/simulated.ts";
import { StartError } from "../start.ts";
import { AgentDriver } from "./agent/agent-driver.ts";
import type { CgroupPlace } from "./cgroups.ts";
import type { MachineDriver } from "./driver.ts";
import { ProcessDriver, type ProcessDriverParts } from "./process-driver.ts";
import { type RunAs, userNamed } from "./run-as.ts";
import { SimulatedDriver } from "./simulated-driver.ts";

/** What runs the instances of each machine. All whose instances are processes of this computer share one. */
export function makeDrivers(
  machines: Readonly<Record<ConfigName, MachineConfig>>,
  parts: ProcessDriverParts,
  isOn: (machine: ConfigName, instance: InstanceId) => boolean,
): ReadonlyMap<ConfigName, MachineDriver> {
  // Machines without a user of their own share one driver.
  const byUser = new Map<string | undefined, ProcessDriver>();
  const here = (name: string | undefined, cgroups: CgroupPlace | undefined): ProcessDriver => {
    const driver =
      byUser.get(name) ?? new ProcessDriver({ ...parts, cgroups, runAs: name === undefined ? undefined : user(name) });
    byUser.set(name, driver);
    return driver;
  };
  const { serviceUrl, events } = parts;
  return new Map(
    Object.entries(machines).map(([name, { driver, simulated, runAs, cgroups }]): [ConfigName, MachineDriver] => {
      if (driver === "process") return [name, here(runAs, cgroups)];
      if (driver === "agent") return [name, agentDriver(name, parts, isOn)];
      return [name, new SimulatedDriver({ behaviour: simulated ?? Simulated.parse({}), serviceUrl, events })];
    }),
  );
}

/** What speaks to the agent of a machine. */
export const agentDriver = (
  name: ConfigName,
  { serviceUrl, events }: Pick<ProcessDriverParts, "serviceUrl" | "events">,
  isOn: (machine: ConfigName, instance: InstanceId) => boolean,
): AgentDriver => new AgentDriver({ serviceUrl, events, isOwn: (instance) => isOn(name, instance) });

function user(name: string): RunAs {
  const found = userNamed(name);
  if ("why" in found) throw new StartError("start-refused", `Instances cannot run as ${name}: ${found.why}.`);
  return found;
}
