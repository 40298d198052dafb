import type { InstanceState } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import type { Berth } from "../harbor/berth.ts";
import { assertNever } from "../harbor/decision.ts";
import type { HarborState } from "../harbor/state.ts";
import type { PoolEvent } from "./events.ts";
import { portKey } from "./hand-out.ts";
import type { Instance, Match } from "./state.ts";

type Of<K extends PoolEvent["kind"]> = Extract<PoolEvent, { kind: K }>;

export function applyPool(state: HarborState, event: PoolEvent, at: number): void {
  if (event.kind === "instance.ordered") return order(state, event, at);
  const instance = instanceOf(state, event.instance);
  const become = (next: InstanceState, why: string) => Object.assign(instance, { state: next, why, changedAtMs: at });
  switch (event.kind) {
    case "instance.claimed":
      return hold(state, instance, event.room);
    case "instance.returned":
      letGoOfRoom(state, instance);
      instance.why = `free again: ${event.reason}`;
      return;
    case "instance.booting":
      instance.pid = event.pid;
      // A release may have come before the process did.
      if (instance.state === "ordered") become("booting", "started; has not announced itself yet");
      return;
    case "instance.announced":
      Object.assign(instance, { announced: true, pid: instance.pid ?? event.pid ?? null });
      if (isComingUp(instance)) become("booting", "announced itself; its port is being probed");
      return;
    case "instance.opened":
      clearDeadline(state.deadlines, "instance-boot", instance.id);
      become("open", event.detail);
      return;
    case "instance.assigned":
      assign(instance, event);
      become("busy", `runs ${event.match.level} for ${event.match.players.length} players`);
      return;
    case "instance.berth-added":
      return addBerth(instance, event);
    case "instance.match-begun": {
      const { number, run, without } = event;
      instance.orders = [...instance.orders, { number, order: "begin", run, without: [...without] }];
      instance.ordersGiven = number;
      return;
    }
    case "instance.match-ended":
      endMatch(instance, event);
      if (instance.state === "busy") become("open", "its match was ended; it is held by its room");
      return;
    case "instance.took-orders":
      return takeOrders(instance, event.taken);
    case "instance.boarded":
      setBerth(instance, event.player, { state: "taken", attempt: event.attempt ?? null });
      return;
    case "instance.unboarded":
      return leaveBerth(instance, event);
    case "instance.reported":
      Object.assign(instance, { match: null, lastRun: event.run });
      if (instance.state === "busy") become("open", "its match is over; it is held by its room");
      return;
    case "instance.stop-ordered":
      stopOrdered(state, instance, event);
      become("draining", `asked to stop: ${event.reason}`);
      return;
    case "instance.stop-forced":
      clearDeadline(state.deadlines, event.how === "kill" ? "instance-kill" : "instance-stop", instance.id);
      instance.why =
        event.how === "kill" ? "killed: it ignored the signal to stop" : "signalled: it ignored the order to stop";
      if (event.killByMs !== null) setDeadline(state.deadlines, "instance-kill", instance.id, event.killByMs);
      return;
    case "instance.parting":
      instance.parting = true;
      if (instance.state !== "draining") become("draining", `said farewell: ${event.reason}`);
      // It may say farewell and hang: the deadlines of stopping hold for it too.
      setDeadline(state.deadlines, "instance-stop", instance.id, at + instance.stopMs);
      return;
    case "instance.failed":
      letGoOfRoom(state, instance);
      become("failed", event.why);
      clearDeadline(state.deadlines, "instance-boot", instance.id);
      return;
    case "instance.exited":
      exit(state, instance, event, at);
      become(event.state, event.why);
      return;
    case "instance.forgotten":
      state.pools.instances.delete(instance.id);
      clearDeadline(state.deadlines, "instance-forget", instance.id);
      return;
    default:
      assertNever(event);
  }
}

function order(state: HarborState, event: Of<"instance.ordered">, at: number): void {
  const { instance: id, pool, build, address, stopMs, portRestMs, forgetMs, why, room } = event;
  const instance: Instance = {
    ...{ id, pool, build, address, stopMs, portRestMs, forgetMs, why },
    ...{ state: "ordered", orderedAtMs: at, changedAtMs: at, pid: null, exitCode: null, signal: null },
    ...{ announced: false, parting: false, gone: false, room: null, match: null, lastRun: null },
    ...{ orders: [], ordersGiven: 0, ordersTaken: 0 },
  };
  state.pools.instances.set(id, instance);
  state.pools.live.set(pool, (state.pools.live.get(pool) ?? 0) + 1);
  state.pools.ports.set(portKey(address.host, address.port), null);
  if (room !== undefined) hold(state, instance, room);
  setDeadline(state.deadlines, "instance-boot", id, event.bootByMs);
}

function hold(state: HarborState, instance: Instance, room: string): void {
  instance.room = room;
  state.pools.byRoom.set(room, instance.id);
}

function letGoOfRoom(state: HarborState, instance: Instance): void {
  if (instance.room !== null && state.pools.byRoom.get(instance.room) === instance.id)
    state.pools.byRoom.delete(instance.room);
  Object.assign(instance, { room: null, match: null });
}

function assign(instance: Instance, { number, match, passes }: Of<"instance.assigned">): void {
  const { room, run, level, players } = match;
  const berths: Match["berths"] = new Map();
  for (const { id: player, name, place } of players) {
    berths.set(player, { player, name, place, pass: passes[player] ?? "", ...FRESH });
  }
  instance.match = { room, run, level, order: number, berths };
  instance.orders = [...instance.orders, { number, order: "take-match", match }];
  instance.ordersGiven = number;
}

function takeOrders(instance: Instance, taken: number): void {
  instance.ordersTaken = taken;
  instance.orders = instance.orders.filter((order) => order.number > taken);
}

function endMatch(instance: Instance, { number, run, reason }: Of<"instance.match-ended">): void {
  instance.orders = [...instance.orders, { number, order: "end-match", run, reason }];
  Object.assign(instance, { ordersGiven: number, match: null, lastRun: run });
}

const FRESH = { state: "reserved", attempt: null, expiresAtMs: null } as const;

function addBerth(instance: Instance, { number, run, player, pass, expiresAtMs }: Of<"instance.berth-added">): void {
  const { id, name, place } = player;
  instance.match?.berths.set(id, { player: id, name, place, pass, ...FRESH, expiresAtMs });
  instance.orders = [...instance.orders, { number, order: "expect-player", run, player }];
  instance.ordersGiven = number;
}

function leaveBerth(instance: Instance, { player, number, run }: Of<"instance.unboarded">): void {
  setBerth(instance, player, { state: "left" });
  if (number === undefined || run === undefined) return;
  instance.orders = [...instance.orders, { number, order: "release-player", run, player }];
  instance.ordersGiven = number;
}

function setBerth(instance: Instance, player: string, change: Partial<Pick<Berth, "state" | "attempt">>): void {
  const berth = instance.match?.berths.get(player);
  if (berth) Object.assign(berth, change);
}

function stopOrdered(
  state: HarborState,
  instance: Instance,
  { number, reason, stopByMs }: Of<"instance.stop-ordered">,
): void {
  letGoOfRoom(state, instance);
  instance.orders = [...instance.orders, { number, order: "stop", reason }];
  instance.ordersGiven = number;
  clearDeadline(state.deadlines, "instance-boot", instance.id);
  setDeadline(state.deadlines, "instance-stop", instance.id, stopByMs);
}

function exit(state: HarborState, instance: Instance, event: Of<"instance.exited">, at: number): void {
  letGoOfRoom(state, instance);
  const { exitCode, signal } = event;
  Object.assign(instance, { gone: true, exitCode, signal, orders: [] });
  const { host, port } = instance.address;
  const { pools, deadlines } = state;
  pools.ports.set(portKey(host, port), event.portFreeAtMs);
  pools.live.set(instance.pool, (pools.live.get(instance.pool) ?? 1) - 1);
  for (const kind of ["instance-boot", "instance-stop", "instance-kill"] as const)
    clearDeadline(deadlines, kind, instance.id);
  setDeadline(deadlines, "instance-forget", instance.id, at + instance.forgetMs);
}

const isComingUp = ({ state }: Instance): boolean => state === "ordered" || state === "booting";

function instanceOf(state: HarborState, id: string): Instance {
  const instance = state.pools.instances.get(id);
  if (instance === undefined) throw new Error(`event about unknown instance ${id}`);
  return instance;
}
