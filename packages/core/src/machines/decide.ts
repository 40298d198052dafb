import { accept, assertNever, type Decision, nothingToDo, type PoolsMoment, refuse } from "../model/decision.ts";
import type { MachineCommand } from "../model/machines/commands.ts";

export function decideMachine({ state, rules }: PoolsMoment, command: MachineCommand): Decision {
  const { machine } = command;
  const isThere = state.machines.agents.get(machine)?.isThere === true;
  switch (command.do) {
    case "machine.join": {
      const agents = [...rules.machines].filter(([, { driver }]) => driver === "agent").map(([name]) => name);
      if (!agents.includes(machine)) {
        const known = agents.length === 0 ? "there is none with driver: agent" : `there are ${agents.join(", ")}`;
        return refuse("machine-unknown", `No machine ${machine} waits for an agent; ${known}.`, { accepted: agents });
      }
      return isThere ? accept([]) : accept([{ kind: "machine.joined", machine, from: command.from }]);
    }
    case "machine.lose":
      return isThere ? accept([{ kind: "machine.lost", machine, why: command.why }]) : nothingToDo;
    default:
      return assertNever(command);
  }
}
