import type { InstanceState } from "@yellow-harbor/protocol";
import { clearDeadline, setDeadline } from "../deadlines/index.ts";
import { assertNever } from "../model/decision.ts";
import type { PoolEvent } from "../model/pools/events.ts";
import { matchesOf, matchOfRun } from "../model/pools/holds.ts";
import type { Instance, PoolsState } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";
import { acknowledge, addBerth, assign, changeMatch, endMatch, give, leaveBerth, setBerth } from "./apply-match.ts";
import { countOnMachine } from "./load.ts";
import { watchEmpty } from "./longest.ts";
import { meterInstance, meterRoom } from "./meter.ts";

type Of<K extends PoolEvent["kind"]> = Extract<PoolEvent, { kind: K }>;

export function applyPool(state: PoolsPart, event: PoolEvent, at: number): void {
  if (event.kind === "instance.launched") launch(state, event, at);
  else {
    change(state, event, at);
    if (CHANGES_WHO_IS_IN.has(event.kind)) watchEmpty(state, instanceOf(state, event.instance), at);
  }
}

/** Events after which somebody may be in a match, or nobody any more. */
const CHANGES_WHO_IS_IN: ReadonlySet<PoolEvent["kind"]> = new Set([
  ...(["instance.boarded", "instance.unboarded", "instance.assigned", "instance.reported"] as const),
  ...(["instance.match-ended", "instance.returned", "instance.stop-requested", "instance.failed"] as const),
]);

function change(state: PoolsPart, event: Exclude<PoolEvent, { kind: "instance.launched" }>, at: number): void {
  const instance = instanceOf(state, event.instance);
  const become = (next: InstanceState, why: string): void => {
    instance.state = next;
    instance.why = why;
    instance.changedAtMs = at;
  };
  switch (event.kind) {
    case "instance.allocated":
      return hold(state, instance, event.room, at);
    case "instance.returned":
      letGoOf(state, instance, event.room, at);
      if (instance.state !== "draining") instance.why = `free again: ${event.reason}`;
      return;
    case "instance.draining":
      setDeadline(state.deadlines, "instance-drain", instance.id, event.untilMs);
      return become("draining", event.why);
    case "instance.reclaimed":
      clearDeadline(state.deadlines, "instance-drain", instance.id);
      return become("open", `reclaimed: ${event.why}`);
    case "instance.output-read":
      instance.outputRead = { ...instance.outputRead, [event.stream]: event.upTo };
      return;
    case "instance.differed":
      if (event.what === null) instance.differences.delete(event.player);
      else instance.differences.set(event.player, { what: event.what, sinceMs: at });
      return;
    case "instance.booting":
      instance.pid = event.pid;
      instance.startedAtMs ??= at;
      // A release may have come before the process did.
      if (instance.state === "launched") become("booting", "started; has not announced itself yet");
      return;
    case "instance.announced":
      instance.announced = true;
      instance.pid = instance.pid ?? event.pid ?? null;
      instance.announcedPid = event.pid ?? null;
      if (isComingUp(instance)) become("booting", "announced itself; its port is being probed");
      return;
    case "instance.opened":
      clearDeadline(state.deadlines, "instance-boot", instance.id);
      become("open", event.detail);
      return;
    case "instance.assigned":
      assign(instance, event);
      if (instance.state === "draining") return;
      return become("busy", `runs ${event.match.level} for ${event.match.players.length} players`);
    case "instance.berth-added":
      setDeadline(state.deadlines, "instance-berths", instance.id, event.expiresAtMs + 1);
      return addBerth(instance, event);
    case "instance.match-started": {
      const { number, run, without } = event;
      return give(instance, { number, instruction: "match-started", run, without: [...without] });
    }
    case "instance.match-changed":
      return changeMatch(instance, event);
    case "instance.match-ended":
      give(instance, { number: event.number, instruction: "end-match", run: event.run, reason: event.reason });
      endMatch(instance, event.run);
      if (instance.state === "busy" && !isPlaying(instance))
        become("open", "its match was ended; it is held by its room");
      return;
    case "instance.acknowledged":
      return acknowledge(instance, event.acknowledged);
    case "instance.boarded":
      instance.differences.delete(event.player);
      return setBerth(instance, event.run, event.player, { state: "taken", attempt: event.attempt ?? null });
    case "instance.unboarded":
      return leaveBerth(instance, event);
    case "instance.scored":
      matchOfRun(instance, event.run)?.scores.set(event.player, event.score);
      return;
    case "instance.reported":
      endMatch(instance, event.run);
      if (instance.state === "busy" && !isPlaying(instance))
        become("open", "its match is over; it is held by its room");
      return;
    case "instance.stop-requested":
      stopRequested(state, instance, event, at);
      become("draining", `asked to stop: ${event.reason}`);
      return;
    case "instance.stop-forced":
      clearDeadline(state.deadlines, event.how === "kill" ? "instance-kill" : "instance-stop", instance.id);
      instance.why =
        event.how === "kill" ? "killed: it ignored the signal to stop" : "signalled: it ignored the order to stop";
      if (event.killByMs !== null) setDeadline(state.deadlines, "instance-kill", instance.id, event.killByMs);
      return;
    case "instance.exiting":
      instance.exiting = true;
      clearDeadline(state.deadlines, "instance-drain", instance.id);
      if (instance.state !== "draining") become("draining", `said goodbye: ${event.reason}`);
      // It may say goodbye and hang: the deadlines of stopping hold for it too.
      setDeadline(state.deadlines, "instance-stop", instance.id, at + instance.stopMs);
      return;
    case "instance.failed":
      letGoOfAll(state, instance, at);
      clearDeadline(state.deadlines, "instance-drain", instance.id);
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

function launch(state: PoolsPart, event: Of<"instance.launched">, at: number): void {
  const { instance: id, pool, machine, room } = event;
  // Written out one by one: put together of parts it would be a dictionary, and an allocation looks at thousands of them.
  const instance: Instance = {
    id,
    pool,
    build: event.build,
    version: event.version,
    machine,
    region: event.region,
    address: event.address,
    client: event.client ?? null,
    ports: event.ports,
    capacity: event.capacity,
    launchedAtMs: at,
    isWatched: event.isWatched,
    stopMs: event.stopMs,
    portRestMs: event.portRestMs,
    forgetMs: event.forgetMs,
    drainMs: event.drainMs,
    emptyMs: event.emptyMs ?? null,
    needs: event.needs ?? NO_NEEDS,
    placed: event.placed ?? null,
    state: "launched",
    why: event.why,
    changedAtMs: at,
    pid: null,
    announced: false,
    announcedPid: null,
    startedAtMs: null,
    exiting: false,
    stopping: false,
    gone: false,
    holds: new Map(),
    heldSinceMs: new Map(),
    lastRuns: [],
    played: 0,
    differences: new Map(),
    outputRead: { out: 0, err: 0 },
    instructions: [],
    instructionsGiven: 0,
    instructionsAcknowledged: 0,
    exitCode: null,
    signal: null,
  };
  state.pools.instances.set(id, instance);
  state.pools.live.set(pool, (state.pools.live.get(pool) ?? 0) + 1);
  setPorts(state.pools, instance, null);
  state.pools.lastPort.set(pool, Math.max(event.address.port, ...Object.values(event.ports)));
  countOnMachine(state, instance, 1, at);
  if (room !== undefined) hold(state, instance, room, at);
  setDeadline(state.deadlines, "instance-boot", id, event.bootByMs);
  if (event.runMs !== undefined) setDeadline(state.deadlines, "instance-run", id, at + event.runMs);
}

const NO_NEEDS = Object.freeze({ cpus: 0, memoryMb: 0 });

function setPorts({ ports: all }: PoolsState, { address, ports }: Instance, freeAtMs: number | null): void {
  const known = all.get(address.host) ?? new Map<number, number | null>();
  all.set(address.host, known);
  for (const port of [address.port, ...Object.values(ports)]) known.set(port, freeAtMs);
}

function hold(state: PoolsPart, instance: Instance, room: string, at: number): void {
  if (!instance.holds.has(room)) {
    instance.holds.set(room, null);
    instance.heldSinceMs.set(room, at);
  }
  state.pools.byRoom.set(room, instance.id);
}

function letGoOf(state: PoolsPart, instance: Instance, room: string, at: number): void {
  if (state.pools.byRoom.get(room) === instance.id) state.pools.byRoom.delete(room);
  if (instance.holds.has(room)) meterRoom(state.pools.meter, instance, room, at);
  instance.holds.delete(room);
  instance.heldSinceMs.delete(room);
}

function letGoOfAll(state: PoolsPart, instance: Instance, at: number): void {
  for (const room of [...instance.holds.keys()]) letGoOf(state, instance, room, at);
}

const isPlaying = (instance: Instance): boolean => matchesOf(instance).length > 0;

function stopRequested(
  state: PoolsPart,
  instance: Instance,
  { number, reason, stopByMs }: Of<"instance.stop-requested">,
  at: number,
): void {
  letGoOfAll(state, instance, at);
  instance.stopping = true;
  clearDeadline(state.deadlines, "instance-drain", instance.id);
  give(instance, { number, instruction: "stop", reason });
  clearDeadline(state.deadlines, "instance-boot", instance.id);
  setDeadline(state.deadlines, "instance-stop", instance.id, stopByMs);
}

function exit(state: PoolsPart, instance: Instance, event: Of<"instance.exited">, at: number): void {
  letGoOfAll(state, instance, at);
  const { exitCode, signal } = event;
  instance.gone = true;
  instance.exitCode = exitCode;
  instance.signal = signal;
  instance.instructions = [];
  const { pools, deadlines } = state;
  meterInstance(pools.meter, instance, at);
  setPorts(pools, instance, event.portFreeAtMs);
  countOnMachine(state, instance, -1, at);
  pools.live.set(instance.pool, (pools.live.get(instance.pool) ?? 1) - 1);
  for (const kind of [
    ...([
      "instance-boot",
      "instance-stop",
      "instance-kill",
      "instance-drain",
      "instance-berths",
      "instance-run",
    ] as const),
    "instance-empty" as const,
  ])
    clearDeadline(deadlines, kind, instance.id);
  setDeadline(deadlines, "instance-forget", instance.id, at + instance.forgetMs);
}

const isComingUp = ({ state }: Instance): boolean => state === "launched" || state === "booting";

function instanceOf(state: PoolsPart, id: string): Instance {
  const instance = state.pools.instances.get(id);
  if (instance === undefined) throw new Error(`event about unknown instance ${id}`);
  return instance;
}
