import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { MachineCommand } from "../model/machines/commands.ts";
import type { PoolsPart } from "../model/state.ts";

export const decideMachine = decideBy<MachineCommand, PoolsPart>({
  "machine.join": join,
  "machine.lose": ({ state }, { machine, why }) =>
    isThere(state, machine) ? accept([{ kind: "machine.lost", machine, why }]) : nothingToDo,
});

const isThere = ({ machines }: PoolsPart, machine: string): boolean => machines.agents.get(machine)?.isThere === true;

function join(
  { state, rules }: PoolsContext,
  { machine, from }: Extract<MachineCommand, { do: "machine.join" }>,
): Decision {
  const agents = [...rules.machines].filter(([, { driver }]) => driver === "agent").map(([name]) => name);
  if (!agents.includes(machine)) {
    const known = agents.length === 0 ? "there is none with driver: agent" : `there are ${agents.join(", ")}`;
    return refuse("machine-unknown", `No machine ${machine} waits for an agent; ${known}.`, { accepted: agents });
  }
  return accept(isThere(state, machine) ? [] : [{ kind: "machine.joined", machine, from }]);
}
