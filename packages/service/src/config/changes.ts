import type { ConfigChange } from "@yellow-harbor/protocol";
import { referenceFaults } from "./references.ts";
import type { Config } from "./schema.ts";
import { type Difference, differencesOf, withValueAt } from "./values.ts";

/** What can be changed while the service runs. All else is read once, at its start. */
const AT_ONCE: readonly (readonly string[])[] = [
  ["players", "builds"],
  ["players", "attributes"],
  ["players", "limit"],
  ["players", "graceMs"],
  ["players", "accounts", "sameAccount"],
  ["lobbies"],
  ["roomKinds"],
  ["levels"],
  ["regions"],
  ["builds"],
  ["pools"],
  ["queues"],
  ["machineGroups"],
  ["travel", "prepareMs"],
  ["travel", "boardMs"],
  ["travel", "attempts"],
  ["secrets"],
  ["webhooks"],
  ["alerts"],
  ["log"],
];

/** Parts that people or processes may be in right now: their going needs a restart, after which nobody is. */
const MAY_HOLD = new Set(["lobbies", "pools", "machineGroups"]);

/** What of a machine can be changed while instances run on it. */
const OF_MACHINES = new Set(["region", "max", "cpus", "memoryMb", "preemptible", "pricePerSecond", "tokensFrom"]);

/** A machine that an agent serves can be new at any time: nothing has to be started for it here. */
const isLiveMachine = ({ path: [part, , key], before, after }: Difference): boolean => {
  if (part !== "machines") return false;
  if (key !== undefined) return OF_MACHINES.has(key);
  return before === undefined && (after as Config["machines"][string] | undefined)?.driver === "agent";
};

const isAtOnce = (one: Difference): boolean => {
  const { path, after } = one;
  if (isLiveMachine(one)) return true;
  if (path.length === 2 && after === undefined && MAY_HOLD.has(path[0] ?? "")) return false;
  return AT_ONCE.some((part) => part.every((step, n) => path[n] === step));
};

export interface ConfigChanges {
  readonly changes: readonly ConfigChange[];
  /** The running configuration with what can be changed at once. */
  readonly next: Config;
  /** Why what can be changed at once cannot be without the rest, or undefined. */
  readonly needsRestart: string | undefined;
}

/** What another configuration changes in the one that runs, and when. */
export function changesBetween(running: Config, read: Config): ConfigChanges {
  const differences = differencesOf(running, read);
  const atOnce = differences.filter(isAtOnce);
  const next = atOnce.reduce<unknown>((config, { path, after }) => withValueAt(config, path, after), running) as Config;
  // A pool may name a machine that is not there before the restart.
  const [fault] = referenceFaults(next);
  const changes = differences.map((one): ConfigChange => {
    const { path, before, after } = one;
    return {
      path: path.join("."),
      ...(before !== undefined && { before }),
      ...(after !== undefined && { after }),
      takes: isAtOnce(one) ? "at-once" : "restart",
    };
  });
  return { changes, next, needsRestart: fault && `${fault.path.join(".")}: ${fault.message}` };
}
