import type { ConfigName, MachineGroupRules } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type PoolsContext } from "../model/decision.ts";
import type { Effect } from "../model/effect.ts";
import type { FleetCommand } from "../model/fleets/commands.ts";
import type { FleetEvent } from "../model/fleets/events.ts";
import { decideBy } from "../model/handlers.ts";
import { newId } from "../model/stamp.ts";
import type { PoolsPart } from "../model/state.ts";
import { idleMachine, needOf, sizeOf } from "./need.ts";

/** How often a group is looked at, and how often a machine that is to go is told so again. */
const LOOK_EVERY_MS = 2_000;
const SAY_AGAIN_MS = 60_000;
/** After an order of which no machine came, the next waits so long, and twice as long each time. */
const FIRST_PAUSE_MS = 10_000;
const MAX_PAUSE_MS = 600_000;

type FleetRules = NonNullable<MachineGroupRules["fleet"]>;

export const decideFleet = decideBy<FleetCommand, PoolsPart>({
  "fleet.consider": (context, { group }) => consider(context, group),
  "fleet.fail": (context, { machine, why }) => fail(context, machine, why),
});

/** Orders what is missing, at most so many at a time, and gives back one that nothing needs. */
function consider(context: PoolsContext, group: ConfigName): Decision {
  const { rules, at } = context;
  const alike = rules.machineGroups.get(group);
  if (alike?.fleet == null) return nothingToDo;
  const again = { kind: "fleet-group", subject: group, at: at + LOOK_EVERY_MS } as const;
  const ordered = order(context, group, { ...alike, fleet: alike.fleet });
  if (ordered.length > 0) return { ...accept(ordered, { effects: ordered.map(orderEffect) }), again };
  const returned = giveBack(context, group, alike.fleet);
  return { ...accept(returned, { effects: returned.map(returnEffect) }), again };
}

function order(
  { state, rules, random, at }: PoolsContext,
  group: ConfigName,
  { limit, fleet }: MachineGroupRules & { readonly fleet: FleetRules },
): Extract<FleetEvent, { kind: "fleet.ordered" }>[] {
  const failed = state.fleets.failures.get(group);
  if (failed && at < failed.atMs + Math.min(MAX_PAUSE_MS, FIRST_PAUSE_MS * 2 ** Math.min(10, failed.inARow - 1)))
    return [];
  const { all, there, ordered } = sizeOf(state, group);
  const need = needOf(state, rules, group, at);
  const below = fleet.min - there - ordered;
  const missing = Math.max(need.machines - ordered, below);
  const many = Math.min(missing, limit - all - ordered, fleet.ordersAtOnce - ordered, failed ? 1 - ordered : missing);
  const why = need.machines - ordered >= below ? need.why : `the group is to have ${fleet.min} at least`;
  return Array.from({ length: Math.max(0, many) }, () => ({
    kind: "fleet.ordered" as const,
    machine: `${group}-${newId("f", random).slice(2)}`,
    group,
    why,
    joinByMs: at + fleet.bootMs,
  }));
}

function giveBack({ state, rules, at }: PoolsContext, group: ConfigName, fleet: FleetRules): FleetEvent[] {
  // One that was told to go and is still here is told again.
  const late = [...state.fleets.returns.values()].filter(
    (one) => one.group === group && at - one.saidAtMs >= SAY_AGAIN_MS && state.machines.enrolled.has(one.machine),
  );
  const again = late.map(
    ({ machine }): FleetEvent => ({ kind: "fleet.returned", machine, group, why: "it is still here" }),
  );
  const { there, ordered } = sizeOf(state, group);
  if (again.length > 0 || ordered > 0 || there <= fleet.min || needOf(state, rules, group, at).machines > 0)
    return again;
  const idle = idleMachine(state, group, fleet, at);
  return idle === undefined ? [] : [{ kind: "fleet.returned", machine: idle.machine, group, why: idle.why }];
}

function fail({ state }: PoolsContext, machine: ConfigName, why: string): Decision {
  const known = state.fleets.orders.get(machine);
  return known === undefined ? nothingToDo : accept([{ kind: "fleet.failed", machine, group: known.group, why }]);
}

const orderEffect = ({ machine, group }: FleetEvent): Effect => ({ effect: "order-machine", machine, group });
const returnEffect = ({ machine, group }: FleetEvent): Effect => ({ effect: "return-machine", machine, group });
