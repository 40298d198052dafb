import { builds } from "../builds/index.ts";
import { accept, assertNever, type Decision, nothingToDo, type PoolsMoment, refuse } from "../model/decision.ts";
import type { InstanceCommand, PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { heldBy } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import { recordOf } from "../model/record.ts";
import { newId } from "../model/stamp.ts";
import type { PoolsPart } from "../model/state.ts";
import { addBerth, beginMatch, endMatch } from "./amend.ts";
import { board, freeBerth, report, unboard } from "./boarding.ts";
import { exited, fail, killLate, startFailed, stopLate, wakeUp } from "./ending.ts";
import { drain, drainLate, handOut, release, releaseFormer, retire, stopIfDone, takeBack } from "./hand-out.ts";
import { hear } from "./hear.ts";
import { orderAhead } from "./order.ts";
import { berthsLate, reconcile } from "./reconcile.ts";

export function decidePool(moment: PoolsMoment, command: PoolCommand): Decision {
  switch (command.do) {
    case "pool.hand-out":
      return handOut(moment, command);
    case "pool.order-ahead":
      return orderAhead(moment, command);
    case "pool.retire":
      return retire(moment, command);
    case "pool.drain":
      return drain(moment, command);
    case "pool.take-back":
      return takeBack(moment, command);
    case "pool.stop-if-done": {
      const one = moment.state.pools.instances.get(command.id);
      return one === undefined ? nothingToDo : stopIfDone(moment, one);
    }
    case "pool.release":
      return release(moment, command);
    case "pool.release-former":
      return releaseFormer(moment, command.room);
    case "pool.free-berth": {
      const held = heldBy(moment.state.pools, command.room);
      return held === undefined ? nothingToDo : freeBerth(held, command.room, command.player);
    }
    case "pool.add-berth":
      return addBerth(moment, command);
    case "pool.begin-match":
      return beginMatch(moment, command);
    case "pool.end-match":
      return endMatch(moment, command);
    default: {
      const instance = moment.state.pools.instances.get(command.instance);
      return instance === undefined
        ? refuse("instance-unknown", `There is no instance ${command.instance}.`)
        : decideInstance(moment, instance, command);
    }
  }
}

function decideInstance(moment: PoolsMoment, instance: Instance, command: InstanceCommand): Decision {
  switch (command.do) {
    case "instance.spawned":
      return spawned(moment, instance, command.pid);
    case "instance.start-failed":
      return startFailed(moment, instance, command.detail, command.portTaken);
    case "instance.probed":
      return probed(instance, command);
    case "instance.assign":
      return assign(moment, instance, command);
    case "instance.exited":
      return exited(moment, instance, command.exitCode, command.signal);
    case "instance.silent":
      return instance.state === "draining" ? nothingToDo : fail(instance, `silent: ${command.detail}`);
    case "instance.over-limit":
      return fail(instance, `killed: ${command.detail}`);
    case "instance.boot-late":
      return fail(
        instance,
        instance.announced ? "announced itself but its port was never reached" : "never announced itself",
      );
    case "instance.drain-late":
      return drainLate(moment, instance);
    case "instance.berths-late":
      return berthsLate(moment, instance);
    case "instance.hear":
      return hear(moment, instance, command);
    case "instance.stop-late":
      return stopLate(moment, instance);
    case "instance.kill-late":
      return killLate(instance);
    case "instance.forget":
      return accept([{ kind: "instance.forgotten", instance: instance.id }]);
    default:
      return decideReport(moment, instance, command);
  }
}

/** What the instance itself says. */
type InstanceReport = Extract<
  InstanceCommand,
  {
    do: `instance.${"announce" | "take-orders" | "board" | "unboard" | "report" | "farewell"}`;
  }
>;

function decideReport(moment: PoolsMoment, instance: Instance, command: InstanceReport): Decision {
  if (instance.gone || instance.state === "failed") {
    return refuse("instance-ended", `Instance ${instance.id} is ${instance.state}: ${instance.why}. Exit now.`);
  }
  switch (command.do) {
    case "instance.announce":
      return announce(instance, command);
    case "instance.take-orders":
      return takeOrders(moment, instance, command);
    case "instance.board":
      return board(instance, command);
    case "instance.unboard":
      return unboard(instance, command);
    case "instance.report":
      return report(moment, instance, command);
    case "instance.farewell":
      return accept([{ kind: "instance.parting", instance: instance.id, reason: command.reason }], {
        reply: () => ({}),
      });
    default:
      return assertNever(command);
  }
}

type Doing<K extends InstanceCommand["do"]> = Extract<InstanceCommand, { do: K }>;

function spawned({ state }: PoolsMoment, instance: Instance, pid: number): Decision {
  if (instance.gone || instance.pid !== null) return nothingToDo;
  // One that says nothing to us, nor prints that it is ready, is up once it answers.
  const { id, address } = instance;
  const isProbed = instance.isWatched && isReadyByPort(state, instance);
  return accept([{ kind: "instance.booting", instance: id, pid }], {
    effects: isProbed ? [{ effect: "probe-instance", instance: id, address }] : [],
  });
}

const isReadyByPort = (state: PoolsPart, { build, version }: Instance) =>
  builds.views.spec(state, build, version)?.ready === "port";

function announce(instance: Instance, { port, pid }: Doing<"instance.announce">): Decision {
  if (port !== instance.address.port) {
    const fields = [{ path: "port", message: `expected ${instance.address.port}` }];
    return refuse("request-invalid", `Listen on port ${instance.address.port}, the one that was given, not ${port}.`, {
      fields,
    });
  }
  const reply = () => ({ instance: instance.id, pool: instance.pool });
  // After a restart of the service an instance announces itself again; it is known already.
  if (instance.announced) {
    const known = instance.announcedPid;
    if (known !== null && pid !== undefined && pid !== known) {
      const detail = `The key of ${instance.id} is that of process ${known}, not of ${pid}: each process has a key of its own. Exit now.`;
      return refuse("instance-key-in-use", detail);
    }
    return accept([], { reply });
  }
  return accept([{ kind: "instance.announced", instance: instance.id, ...(pid !== undefined && { pid }) }], {
    reply,
    effects: [{ effect: "probe-instance", instance: instance.id, address: instance.address }],
  });
}

function probed(instance: Instance, { reached, detail }: Doing<"instance.probed">): Decision {
  if (instance.gone || instance.state !== "booting") return nothingToDo;
  return reached
    ? accept([{ kind: "instance.opened", instance: instance.id, detail }])
    : fail(instance, `not reachable: ${detail}`);
}

function assign({ chance }: PoolsMoment, instance: Instance, { match }: Doing<"instance.assign">): Decision {
  const { holds, state, stopping, gone } = instance;
  const isUp = state === "open" || state === "busy" || (state === "draining" && !stopping);
  if (!isUp || gone || holds.get(match.room) !== null) {
    return refuse("instance-not-open", `Instance ${instance.id} is ${instance.state}.`);
  }
  const passes = recordOf(match.players.map((player) => [player.id, newId("b", chance)]));
  const number = instance.ordersGiven + 1;
  return accept([{ kind: "instance.assigned", instance: instance.id, number, match, passes }], {
    effects: [wakeUp(instance)],
  });
}

function takeOrders(
  moment: PoolsMoment,
  instance: Instance,
  { taken, players }: Doing<"instance.take-orders">,
): Decision {
  if (taken > instance.ordersGiven) {
    return refuse("order-unknown", `Order ${taken} was never given; the last one is ${instance.ordersGiven}.`);
  }
  const reply = () => ({ orders: instance.orders });
  const said = players === undefined ? { events: [], effects: [] } : reconcile(moment, instance, players);
  const took: readonly PoolEvent[] =
    taken <= instance.ordersTaken ? [] : [{ kind: "instance.took-orders", instance: instance.id, taken }];
  return accept([...took, ...said.events], { reply, effects: said.effects });
}
