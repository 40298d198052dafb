import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { MachineCommand } from "../model/machines/commands.ts";
import type { Measure } from "../model/machines/state.ts";
import type { Done } from "../model/replies.ts";
import type { PoolsPart } from "../model/state.ts";
import { machineNames, machineRules, machinesNamed } from "./known.ts";

export const decideMachine = decideBy<MachineCommand, PoolsPart>({
  "machine.join": join,
  "machine.lose": lose,
  "machine.enroll": enroll,
  "machine.forget": forget,
  "machine.remove": remove,
  "machine.measure": measure,
  "machine.set-mode": setMode,
  "machine.give-notice": giveNotice,
});

const isThere = ({ machines }: PoolsPart, machine: string): boolean => machines.agents.get(machine)?.isThere === true;

/** When one that is away is looked at whether it is gone for good: only of machines that have joined by themselves. */
function forgetAt({ state, rules, at }: PoolsContext, machine: string): number | undefined {
  const group = state.machines.enrolled.get(machine)?.group;
  const forgetMs = group === undefined ? undefined : rules.machineGroups.get(group)?.forgetMs;
  return forgetMs === undefined ? undefined : at + forgetMs;
}

function lose(context: PoolsContext, { machine, why }: Extract<MachineCommand, { do: "machine.lose" }>): Decision {
  if (!isThere(context.state, machine)) return nothingToDo;
  const forgetAtMs = forgetAt(context, machine);
  return accept([{ kind: "machine.lost", machine, why, ...(forgetAtMs !== undefined && { forgetAtMs }) }]);
}

function join(
  { state, rules }: PoolsContext,
  { machine, from }: Extract<MachineCommand, { do: "machine.join" }>,
): Decision {
  const agents = machineNames(state, rules).filter((name) => machineRules(state, rules, name)?.driver === "agent");
  if (!agents.includes(machine)) {
    const known = agents.length === 0 ? "there is none with driver: agent" : `there are ${agents.join(", ")}`;
    return refuse("machine-unknown", `No machine ${machine} waits for an agent; ${known}.`, { accepted: agents });
  }
  return accept(isThere(state, machine) ? [] : [{ kind: "machine.joined", machine, from }]);
}

/** A machine joins a group. From then on it shows the token that it is given, so that nobody else takes its name. */
function enroll(
  { state, rules }: PoolsContext,
  { machine, group, host, from }: Extract<MachineCommand, { do: "machine.enroll" }>,
): Decision {
  const known = rules.machineGroups.get(group);
  if (known === undefined) {
    const accepted = [...rules.machineGroups.keys()];
    const there = accepted.length === 0 ? "there is none" : `there are ${accepted.join(", ")}`;
    return refuse("machine-unknown", `There is no group of machines ${group}; ${there}.`, { accepted });
  }
  if (rules.machines.has(machine) || state.machines.enrolled.has(machine)) {
    const detail = `A machine ${machine} has joined before; its agent shows the token that it was given then. Give this one another --name, or say \`yh machine remove ${machine}\` if that one is gone.`;
    return refuse("machine-known", detail);
  }
  if (machinesNamed(state, rules, group).length >= known.limit) {
    return refuse(
      "machine-group-full",
      `Group ${group} has its ${known.limit} machines; raise its limit, or remove one.`,
    );
  }
  return accept([
    { kind: "machine.enrolled", machine, group, host },
    { kind: "machine.joined", machine, from },
  ]);
}

/** Whether anything there is still heard of: it may be the way to its agent alone that is cut. */
const hasLife = ({ pools }: PoolsPart, machine: string): boolean =>
  [...pools.instances.values()].some((one) => one.machine === machine && !one.gone && one.state !== "failed");

function forget(context: PoolsContext, { machine }: Extract<MachineCommand, { do: "machine.forget" }>): Decision {
  const { state } = context;
  const known = state.machines.agents.get(machine);
  if (!state.machines.enrolled.has(machine) || known === undefined || known.isThere) return nothingToDo;
  const forgetAtMs = forgetAt(context, machine);
  if (hasLife(state, machine) && forgetAtMs !== undefined)
    return accept([{ kind: "machine.lost", machine, why: known.why, forgetAtMs }]);
  return accept([{ kind: "machine.removed", machine, why: "it has been away for long, and nothing of it is heard" }]);
}

function remove(
  { state, rules }: PoolsContext,
  { machine }: Extract<MachineCommand, { do: "machine.remove" }>,
): Decision<Done> {
  const accepted = [...state.machines.enrolled.keys()];
  if (rules.machines.has(machine)) {
    return refuse(
      "request-invalid",
      `${machine} is of the configuration; take it out there. What has joined a group can be removed here.`,
    );
  }
  if (!state.machines.enrolled.has(machine)) {
    const there = accepted.length === 0 ? "none has joined" : `there are ${accepted.join(", ")}`;
    return refuse("machine-unknown", `No machine ${machine} has joined a group; ${there}.`, { accepted });
  }
  if (isThere(state, machine)) {
    return refuse("request-invalid", `The agent of ${machine} is connected; drain it, and stop its agent first.`);
  }
  return accept([{ kind: "machine.removed", machine, why: "removed by an operator" }], { reply: (): Done => ({}) });
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

const MODE_WORDS = { open: "opened again", cordoned: "cordoned", draining: "being drained" } as const;

function setMode(
  { state, rules, at }: PoolsContext,
  { machine, mode, withinMs, reason }: Extract<MachineCommand, { do: "machine.set-mode" }>,
): Decision<Done> {
  const accepted = machineNames(state, rules);
  if (!accepted.includes(machine)) {
    return refuse("machine-unknown", `There is no machine ${machine}; there are ${accepted.join(", ")}.`, { accepted });
  }
  const reply = (): Done => ({});
  const before = state.machines.closed.get(machine);
  if (mode === "open" && before === undefined) return accept([], { reply });
  const untilMs = mode === "draining" && withinMs !== undefined ? at + withinMs : undefined;
  const why = `${MODE_WORDS[mode]} by an operator${reason === undefined ? "" : `: ${reason}`}`;
  return accept([{ kind: "machine.mode-set", machine, mode, why, ...(untilMs !== undefined && { untilMs }) }], {
    reply,
  });
}

/** A machine that will be taken away is drained until then. A later end than one that is known already changes nothing. */
function giveNotice(
  { state, at }: PoolsContext,
  { machine, withinMs, why }: Extract<MachineCommand, { do: "machine.give-notice" }>,
): Decision {
  if (!isThere(state, machine)) return nothingToDo;
  const before = state.machines.closed.get(machine);
  const untilMs = at + withinMs;
  if (before?.mode === "draining" && before.untilMs !== null && before.untilMs <= untilMs) return nothingToDo;
  const reason = `is taken away in ${Math.round(withinMs / 1_000)} s, by its own word${why === undefined ? "" : `: ${why}`}`;
  return accept([{ kind: "machine.mode-set", machine, mode: "draining", why: reason, untilMs }]);
}
