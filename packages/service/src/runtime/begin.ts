import type { Config } from "../config/schema.ts";
import type { HarborRuntime } from "./runtime.ts";

export interface Beginning {
  readonly builds: Config["builds"];
  /** Number of the last event of the time before, 0 for a harbor that is new. */
  readonly lastSeq: number;
  /** Machines whose agents have to come again by themselves. */
  readonly agents: Iterable<string>;
}

/** The first commands of a service. Only once it listens can instances reach it, so only then are effects carried out. */
export async function beginHarbor(runtime: HarborRuntime, { builds, lastSeq, agents }: Beginning): Promise<void> {
  if (lastSeq === 0) await runtime.ask({ do: "harbor.found" });
  for (const [line, spec] of Object.entries(builds)) await runtime.ask({ do: "build.configure", line, spec });
  // Until its agent is back nothing is started on a machine.
  const why = "the service was restarted; its agent has not come back yet";
  for (const machine of agents) await runtime.ask({ do: "machine.lose", machine, why });
  if (lastSeq > 0) await runtime.ask({ do: "harbor.recover" });
  runtime.start();
  // Groups whose machines are ordered as they are needed.
  for (const [group, { fleet }] of runtime.rules.machineGroups)
    if (fleet) await runtime.ask({ do: "fleet.consider", group });
  // Pools that keep instances ready look after themselves from here on.
  for (const [pool, { plan }] of runtime.rules.pools) if (plan) await runtime.ask({ do: "plan.consider", pool });
}
