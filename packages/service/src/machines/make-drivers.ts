import type { ConfigName, InstanceId } from "@yellow-harbor/protocol";
import type { MachineConfig } from "../config/schema.ts";
import { Simulated } from "../config/simulated.ts";
import { AgentDriver } from "./agent/agent-driver.ts";
import type { MachineDriver } from "./driver.ts";
import { ProcessDriver, type ProcessDriverParts } from "./process-driver.ts";
import { SimulatedDriver } from "./simulated-driver.ts";

/** What runs the instances of each machine. All whose instances are processes of this computer share one. */
export function makeDrivers(
  machines: Readonly<Record<ConfigName, MachineConfig>>,
  parts: ProcessDriverParts,
  isOn: (machine: ConfigName, instance: InstanceId) => boolean,
): ReadonlyMap<ConfigName, MachineDriver> {
  const here = new ProcessDriver(parts);
  const { serviceUrl, events } = parts;
  return new Map(
    Object.entries(machines).map(([name, { driver, simulated }]): [ConfigName, MachineDriver] => {
      if (driver === "process") return [name, here];
      if (driver === "agent") {
        return [name, new AgentDriver({ serviceUrl, events, isOwn: (instance) => isOn(name, instance) })];
      }
      return [name, new SimulatedDriver({ behaviour: simulated ?? Simulated.parse({}), serviceUrl, events })];
    }),
  );
}
