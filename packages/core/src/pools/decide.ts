import type { Acknowledged, PollReply } from "@yellow-harbor/protocol";
import { accept, type Decision, nothingToDo, type PoolsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { InstanceCommand, PoolCommand } from "../model/pools/commands.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { heldBy } from "../model/pools/holds.ts";
import type { Instance } from "../model/pools/state.ts";
import { recordOf } from "../model/record.ts";
import type { ReplyTo } from "../model/replies.ts";
import { newId } from "../model/stamp.ts";
import type { PoolsPart } from "../model/state.ts";
import { allocate, drain, drainLate, release, releaseFormer, retire, stopIfDone, takeBack } from "./allocate.ts";
import { addBerth, addSpectator, endMatch, startMatch, tellMatch } from "./amend.ts";
import { board, freeBerth, kick, report, unboard } from "./boarding.ts";
import { exited, fail, killLate, startFailed, stopLate, wakeUp } from "./ending.ts";
import { hear } from "./hear.ts";
import { launchAhead } from "./launch.ts";
import { emptyLate, runLate } from "./longest.ts";
import { isReadyByPort, probeEffect } from "./probing.ts";
import { berthsLate, reconcile } from "./reconcile.ts";

type Of<K extends InstanceCommand["do"]> = Extract<InstanceCommand, { do: K }>;

/** Decides for an instance that is there. */
const about =
  <K extends InstanceCommand["do"]>(
    decide: (context: PoolsContext, instance: Instance, command: Of<K>) => Decision<ReplyTo<K>>,
  ) =>
  (context: PoolsContext, command: Of<K>): Decision<ReplyTo<K>> => {
    const { instance: id }: InstanceCommand = command;
    const instance = context.state.pools.instances.get(id);
    return instance === undefined
      ? refuse("instance-unknown", `There is no instance ${id}.`)
      : decide(context, instance, command);
  };

/** The same for what the instance itself says: one that has ended, or failed, has nothing to say any more. */
const saidBy = <K extends InstanceCommand["do"]>(
  decide: (context: PoolsContext, instance: Instance, command: Of<K>) => Decision<ReplyTo<K>>,
) =>
  about<K>((context, instance, command) =>
    instance.gone || instance.state === "failed"
      ? refuse("instance-ended", `Instance ${instance.id} is ${instance.state}: ${instance.why}. Exit now.`)
      : decide(context, instance, command),
  );

export const decidePool = decideBy<PoolCommand, PoolsPart>({
  "pool.allocate": allocate,
  "pool.launch-ahead": launchAhead,
  "pool.retire": retire,
  "pool.drain": drain,
  "pool.reclaim": takeBack,
  "pool.stop-if-done": (context, { id }) => {
    const one = context.state.pools.instances.get(id);
    return one === undefined ? nothingToDo : stopIfDone(context, one);
  },
  "pool.release": release,
  "pool.release-former": (context, { room }) => releaseFormer(context, room),
  "pool.free-berth": ({ state }, { room, player }) => {
    const held = heldBy(state.pools, room);
    return held === undefined ? nothingToDo : freeBerth(held, room, player);
  },
  "pool.add-berth": addBerth,
  "pool.start-match": startMatch,
  "pool.add-spectator": addSpectator,
  "pool.end-match": endMatch,
  "pool.tell-match": tellMatch,
  "instance.spawned": about<"instance.spawned">((context, instance, { pid }) => spawned(context, instance, pid)),
  "instance.start-failed": about<"instance.start-failed">((context, instance, { detail, portTaken }) =>
    startFailed(context, instance, detail, portTaken),
  ),
  "instance.probed": about<"instance.probed">((_moment, instance, command) => probed(instance, command)),
  "instance.assign": about<"instance.assign">(assign),
  "instance.exited": about<"instance.exited">((context, instance, { exitCode, signal }) =>
    exited(context, instance, exitCode, signal),
  ),
  "instance.silent": about<"instance.silent">((_moment, instance, { detail }) =>
    instance.state === "draining" ? nothingToDo : fail(instance, `silent: ${detail}`),
  ),
  "instance.over-limit": about<"instance.over-limit">((_moment, instance, { detail }) =>
    fail(instance, `killed: ${detail}`),
  ),
  "instance.boot-late": about<"instance.boot-late">((_moment, instance) =>
    fail(instance, instance.announced ? "announced itself but its port was never reached" : "never announced itself"),
  ),
  "instance.drain-late": about<"instance.drain-late">(drainLate),
  "instance.run-late": about<"instance.run-late">(runLate),
  "instance.empty-late": about<"instance.empty-late">(emptyLate),
  "instance.berths-late": about<"instance.berths-late">(berthsLate),
  "instance.output": about<"instance.output">(hear),
  "instance.stop-late": about<"instance.stop-late">(stopLate),
  "instance.kill-late": about<"instance.kill-late">((_moment, instance) => killLate(instance)),
  "instance.forget": about<"instance.forget">((_moment, { id }) =>
    accept([{ kind: "instance.forgotten", instance: id }]),
  ),
  "instance.announce": saidBy<"instance.announce">(announce),
  "instance.acknowledge": saidBy<"instance.acknowledge">(acknowledge),
  "instance.board": saidBy<"instance.board">(({ state }, instance, command) => board(state, instance, command)),
  "instance.unboard": saidBy<"instance.unboard">((_moment, instance, command) => unboard(instance, command)),
  "instance.kick": saidBy<"instance.kick">(kick),
  "instance.report": saidBy<"instance.report">(report),
  "instance.goodbye": saidBy<"instance.goodbye">((_moment, { id }, { reason }) =>
    accept([{ kind: "instance.exiting", instance: id, reason }], { reply: (): Acknowledged => ({}) }),
  ),
});

type Doing<K extends InstanceCommand["do"]> = Extract<InstanceCommand, { do: K }>;

function spawned({ state }: PoolsContext, instance: Instance, pid: number): Decision {
  if (instance.gone || instance.pid !== null) return nothingToDo;
  // One that says nothing to us, nor prints that it is ready, is up once it answers.
  return accept([{ kind: "instance.booting", instance: instance.id, pid }], {
    effects: isReadyByPort(state, instance) ? [probeEffect(state, instance)] : [],
  });
}

function announce(
  { state }: PoolsContext,
  instance: Instance,
  { port, pid }: Doing<"instance.announce">,
): Decision<ReplyTo<"instance.announce">> {
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
    effects: [probeEffect(state, instance)],
  });
}

function probed(instance: Instance, { reached, detail }: Doing<"instance.probed">): Decision {
  if (instance.gone || instance.state !== "booting") return nothingToDo;
  return reached
    ? accept([{ kind: "instance.opened", instance: instance.id, detail }])
    : fail(instance, `not reachable: ${detail}`);
}

function assign({ random }: PoolsContext, instance: Instance, { match }: Doing<"instance.assign">): Decision {
  const { holds, state, stopping, gone } = instance;
  const isUp = state === "open" || state === "busy" || (state === "draining" && !stopping);
  if (!isUp || gone || holds.get(match.room) !== null) {
    return refuse("instance-not-open", `Instance ${instance.id} is ${instance.state}.`);
  }
  const passes = recordOf(match.players.map((player) => [player.id, newId("b", random)]));
  const number = instance.instructionsGiven + 1;
  return accept([{ kind: "instance.assigned", instance: instance.id, number, match, passes }], {
    effects: [wakeUp(instance)],
  });
}

function acknowledge(
  context: PoolsContext,
  instance: Instance,
  { acknowledged, players }: Doing<"instance.acknowledge">,
): Decision<PollReply> {
  if (acknowledged > instance.instructionsGiven) {
    return refuse(
      "instruction-unknown",
      `Instruction ${acknowledged} was never given; the last one is ${instance.instructionsGiven}.`,
    );
  }
  const reply = () => ({ instructions: instance.instructions });
  const said = players === undefined ? { events: [], effects: [] } : reconcile(context, instance, players);
  const took: readonly PoolEvent[] =
    acknowledged <= instance.instructionsAcknowledged
      ? []
      : [{ kind: "instance.acknowledged", instance: instance.id, acknowledged }];
  return accept([...took, ...said.events], { reply, effects: said.effects });
}
