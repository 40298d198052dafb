import type { Exported } from "../model/capability.ts";
import type { MachineCommand } from "../model/machines/commands.ts";
import type { MachineEvent } from "../model/machines/events.ts";
import { newMachinesState } from "../model/machines/state.ts";
import { applyMachine } from "./apply.ts";
import { decideMachine } from "./decide.ts";
import { describeMachine } from "./describe.ts";
import { machineRules, machinesNamed } from "./known.ts";
import { machineViews } from "./view.ts";

/** The computers that run instances. */
export const machines = {
  names: ["machine"],
  newState: () => ({ machines: newMachinesState() }),
  decide: decideMachine,
  apply: applyMachine,
  describe: (_state, event) => describeMachine(event),
  due: { "machine-forget": (machine) => ({ do: "machine.forget", machine }) },
  views: { machines: machineViews, rulesOf: machineRules, named: machinesNamed },
} satisfies Exported<MachineCommand, MachineEvent>;
