import type { ConfigName } from "@yellow-harbor/protocol";
import type { MachineConfig } from "../config/schema.ts";
import { Simulated } from "../config/simulated.ts";
import type { MachineDriver } from "./driver.ts";
import { ProcessDriver, type ProcessDriverParts } from "./process-driver.ts";
import { SimulatedDriver } from "./simulated-driver.ts";

/** What runs the instances of each machine. All whose instances are processes of this computer share one. */
export function makeDrivers(
  machines: Readonly<Record<ConfigName, MachineConfig>>,
  parts: ProcessDriverParts,
): ReadonlyMap<ConfigName, MachineDriver> {
  const here = new ProcessDriver(parts);
  const { serviceUrl, events } = parts;
  return new Map(
    Object.entries(machines).map(([name, { driver, simulated }]) => [
      name,
      driver === "process" ? here : new SimulatedDriver({ ways: simulated ?? Simulated.parse({}), serviceUrl, events }),
    ]),
  );
}
