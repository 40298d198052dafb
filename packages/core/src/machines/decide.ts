import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { MachineCommand } from "../model/machines/commands.ts";
import type { Measure } from "../model/machines/state.ts";
import type { Done } from "../model/replies.ts";
import type { PoolsPart } from "../model/state.ts";

export const decideMachine = decideBy<MachineCommand, PoolsPart>({
  "machine.join": join,
  "machine.lose": ({ state }, { machine, why }) =>
    isThere(state, machine) ? accept([{ kind: "machine.lost", machine, why }]) : nothingToDo,
  "machine.measure": measure,
  "machine.set-mode": setMode,
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

/** Load and free memory change all the time: what is no different to a decision is not written down. */
const COARSE_LOAD = 0.25;
const COARSE_MEMORY = 8;

const coarse = ({ cpus, memoryMb, load, memoryFreeMb }: Measure): string =>
  [cpus, memoryMb, Math.round(load / COARSE_LOAD), Math.round((COARSE_MEMORY * memoryFreeMb) / memoryMb)].join();

function measure(
  { state }: PoolsContext,
  { machine, measure: measured }: Extract<MachineCommand, { do: "machine.measure" }>,
): Decision {
  const before = state.machines.measured.get(machine);
  if (before !== undefined && coarse(before) === coarse(measured)) return nothingToDo;
  return accept([{ kind: "machine.measured", machine, measure: measured }]);
}

function setMode(
  { state, rules, at }: PoolsContext,
  { machine, mode, withinMs, reason }: Extract<MachineCommand, { do: "machine.set-mode" }>,
): Decision<Done> {
  const accepted = [...rules.machines.keys()];
  if (!rules.machines.has(machine)) {
    return refuse("machine-unknown", `There is no machine ${machine}; there are ${accepted.join(", ")}.`, { accepted });
  }
  const reply = (): Done => ({});
  const before = state.machines.closed.get(machine);
  if (mode === "open" && before === undefined) return accept([], { reply });
  const untilMs = mode === "draining" && withinMs !== undefined ? at + withinMs : undefined;
  const why = `${mode === "open" ? "opened again" : mode} by an operator${reason === undefined ? "" : `: ${reason}`}`;
  return accept([{ kind: "machine.mode-set", machine, mode, why, ...(untilMs !== undefined && { untilMs }) }], {
    reply,
  });
}
