import { type FleetEffect, type InstanceEffect, type ProbeWorld, specOf } from "@yellow-harbor/core";
import type { BuildSpec, ConfigName, InstanceId, PlayerId } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import type { Tokens } from "../keys/tokens.ts";
import { steadyMs } from "../runtime/clock.ts";
import { every } from "../runtime/every.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import { AgentDriver } from "./agent/agent-driver.ts";
import type { DriverEvents, MachineDriver } from "./driver.ts";
import type { FleetRunner } from "./fleet.ts";
import { ownMeasure } from "./measure.ts";
import { OutputWatcher, type Watched } from "./output-watcher.ts";
import type { Polls } from "./polls.ts";
import { probe } from "./probe.ts";
import { probeWorld } from "./probe-world.ts";
import { windowsOf } from "./schedules.ts";
import type { Secrets } from "./secrets.ts";

const SILENCE_LOOK_MS = 1_000;
const MEASURE_MS = 10_000;
const SCHEDULE_MS = 10_000;

/** An instance that says that it is up is tried for so long. */
const ANSWER_MS = 10_000;

/** The machine that is always there: this computer. */
const HERE = "here";

export interface EffectParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly polls: Polls;
  /** A driver for each machine. */
  readonly makeDrivers: (events: DriverEvents) => ReadonlyMap<ConfigName, MachineDriver>;
  /** A driver for a machine that has joined by itself. */
  readonly makeAgentDriver: (machine: ConfigName, events: DriverEvents) => AgentDriver;
  /** What a build names as secrets, or why one cannot be had. */
  readonly secretsOf: (spec: BuildSpec, more: Readonly<Record<string, string>>) => Secrets | string;
  /** More of the environment of a pool's instances. */
  readonly environmentOf: (pool: ConfigName) => Readonly<Record<string, string>>;
  /** Orders machines and gives them back. */
  readonly fleet: FleetRunner;
  readonly log: Logger;
  /** Which addresses of members' worlds may be looked at. */
  readonly probeWorlds: Config["travel"]["probe"];
  /** Where a player comes from, when it is connected. */
  readonly addressOf: (player: PlayerId) => string | undefined;
}

/** Carries out what the harbor wants done in the world, and tells the harbor what came of it. */
export class EffectRunner {
  readonly #parts: EffectParts;
  readonly #drivers: Map<ConfigName, MachineDriver>;
  readonly #events: DriverEvents;
  readonly #watcher: OutputWatcher;
  readonly #abort = new AbortController();
  readonly #stopLooking: readonly (() => void)[];
  #startsNothing = false;

  constructor(parts: EffectParts) {
    this.#parts = parts;
    const { runtime } = parts;
    const ignore = () => undefined;
    this.#events = {
      spawned: (instance, pid) => runtime.submit({ do: "instance.spawned", instance, pid }, ignore),
      startFailed: (instance, why) => runtime.submit({ do: "instance.start-failed", instance, ...why }, ignore),
      overLimit: (instance, detail) => runtime.submit({ do: "instance.over-limit", instance, detail }, ignore),
      exited: (instance, exit) => {
        parts.polls.forget(instance);
        runtime.submit({ do: "instance.exited", instance, ...exit }, ignore);
      },
    };
    this.#drivers = new Map(parts.makeDrivers(this.#events));
    this.#watcher = new OutputWatcher({
      watched: () => this.#watched(),
      output: (instance, stream) => this.driverOf(instance).output(instance, stream),
      log: parts.log,
      hear: (instance, lines) =>
        new Promise((resolve) => runtime.submit({ do: "instance.output", instance, ...lines }, () => resolve())),
    });
    this.#stopLooking = [
      every(SILENCE_LOOK_MS, "looking for silent instances", parts.log, () => this.#lookForSilence()),
      every(SCHEDULE_MS, "following the schedules of pools", parts.log, async () => this.followSchedules()),
      every(MEASURE_MS, "measuring this computer", parts.log, async () => this.#measure()),
    ];
  }

  /** What runs an instance. */
  driverOf(instance: InstanceId): MachineDriver {
    const machine = this.#parts.runtime.decided.state.pools.instances.get(instance)?.machine;
    return this.#driverOn(machine ?? HERE);
  }

  /** Machines that agents run on: those of the configuration, and those that have joined by themselves. */
  get agents(): ConfigName[] {
    const named = [...this.#drivers].flatMap(([name, one]) => (one instanceof AgentDriver ? [name] : []));
    return [...new Set([...named, ...this.#parts.runtime.decided.state.machines.enrolled.keys()])];
  }

  /** What speaks to the agent of a machine; undefined of one that has none. */
  agentOf(machine: ConfigName): AgentDriver | undefined {
    const known = this.#drivers.get(machine) ?? this.#newAgent(machine);
    return known instanceof AgentDriver ? known : undefined;
  }

  /** Made when it is first needed: of one that has joined, also before the service was started, or is new in the configuration. */
  #newAgent(machine: ConfigName): AgentDriver | undefined {
    const { state, rules } = this.#parts.runtime.decided;
    if (!state.machines.enrolled.has(machine) && rules.machines.get(machine)?.driver !== "agent") return undefined;
    const made = this.#parts.makeAgentDriver(machine, this.#events);
    this.#drivers.set(machine, made);
    return made;
  }

  /** From now on nothing is started: the service ends, and what it starts now would outlive it. */
  startNothing(): void {
    this.#startsNothing = true;
  }

  /** Instances that are known to run now, on all machines. */
  running(): InstanceId[] {
    return [...this.#drivers.values()].flatMap((driver) => driver.running());
  }

  carryOut(effect: InstanceEffect | ProbeWorld | FleetEffect): void {
    void this.#run(effect).catch((error: unknown) => this.#parts.log.error({ err: error, effect }, "an effect failed"));
  }

  close(): void {
    this.#abort.abort();
    this.#parts.fleet.close();
    for (const stop of this.#stopLooking) stop();
    this.#watcher.close();
    for (const driver of this.#drivers.values()) driver.close();
  }

  #driverOn(machine: ConfigName): MachineDriver {
    const driver = this.#drivers.get(machine) ?? this.#newAgent(machine) ?? this.#drivers.get(HERE);
    if (driver === undefined) throw new Error(`there is no machine ${machine}`);
    return driver;
  }

  /** Instances of builds that are watched by what they print, and how far that was looked at. */
  #watched(): Watched[] {
    const { state } = this.#parts.runtime.decided;
    return [...state.pools.instances.values()]
      .filter(({ isWatched, gone, pid }) => isWatched && !gone && pid !== null)
      .flatMap(({ id, build, version, outputRead }) => {
        const spec = specOf(state, build, version);
        return spec === undefined ? [] : [{ instance: id, spec, outputRead }];
      });
  }

  #isBooting(instance: InstanceId): boolean {
    return this.#parts.runtime.decided.state.pools.instances.get(instance)?.state === "booting";
  }

  /** One that has said that it is up answers soon; one that says nothing has until its boot is over. */
  #patienceMs(instance: InstanceId): number {
    const { state, rules } = this.#parts.runtime.decided;
    const known = state.pools.instances.get(instance);
    const { bootMs = ANSWER_MS } = rules.pools.get(known?.pool ?? "") ?? {};
    return known?.announced === false ? Math.max(ANSWER_MS, bootMs) : ANSWER_MS;
  }

  #startFailed(instance: InstanceId, detail: string): void {
    const failed = { do: "instance.start-failed", instance, detail, portTaken: false } as const;
    this.#parts.runtime.submit(failed, () => undefined);
  }

  async #run(effect: InstanceEffect | ProbeWorld | FleetEffect): Promise<void> {
    if (effect.effect === "probe-world") return this.#probeWorld(effect);
    if ("group" in effect) return this.#runFleet(effect);
    const { instance } = effect;
    switch (effect.effect) {
      case "start-instance": {
        // The next start of the service sees to it, as after a crash.
        if (this.#startsNothing) return;
        const key = await this.#parts.tokens.signInstanceKey(instance);
        const { spec, address, ports, level, client, machine, pool } = effect;
        const environment = this.#parts.environmentOf(pool);
        const secrets = this.#parts.secretsOf(spec, environment);
        if (typeof secrets === "string") return this.#startFailed(instance, secrets);
        const given = { instance, spec, environment, secrets, address, ports, level, client, key };
        return this.#driverOn(machine).start(given);
      }
      case "watch-instance":
        return this.driverOf(instance).adopt(instance, effect.pid);
      case "probe-instance": {
        const { address, probe: asked } = effect;
        const isWanted = () => !this.#abort.signal.aborted && this.#isBooting(instance);
        const probed = await probe({ address, probe: asked, patienceMs: this.#patienceMs(instance), isWanted });
        if (!isWanted()) return;
        return this.#parts.runtime.submit({ do: "instance.probed", instance, ...probed }, () => undefined);
      }
      case "wake-instance":
        return this.#wake(effect);
      case "signal-instance":
        return this.driverOf(instance).signal(instance, effect.signal);
    }
  }

  /** An order that failed is of no more use; what is to go is told so again later. */
  async #runFleet(effect: FleetEffect): Promise<void> {
    if (this.#startsNothing) return;
    const why = await this.#parts.fleet.carryOut(effect);
    if (why === undefined || effect.effect !== "order-machine") return;
    this.#parts.runtime.submit({ do: "fleet.fail", machine: effect.machine, why }, () => undefined);
  }

  async #probeWorld({ run, player, addresses }: ProbeWorld): Promise<void> {
    const { runtime, addressOf, probeWorlds } = this.#parts;
    const probed = await probeWorld(addresses, { mode: probeWorlds, from: addressOf(player) });
    if (this.#abort.signal.aborted) return;
    runtime.submit({ do: "travel.world-probed", run, player, probed }, () => undefined);
  }

  #wake({ instance, upTo }: Extract<InstanceEffect, { effect: "wake-instance" }>): void {
    const { runtime, polls } = this.#parts;
    // Newer instructions may have been decided meanwhile, and are not durable yet.
    const known = runtime.decided.state.pools.instances.get(instance)?.instructions ?? [];
    const instructions = known.filter(({ number }) => number <= upTo);
    if (instructions.length > 0) polls.answer(instance, instructions);
  }

  /** Tells the planner the times of each pool's schedule that are on or next. It says nothing where nothing has changed. */
  followSchedules(): void {
    const { runtime } = this.#parts;
    if (runtime.failure) return;
    for (const [pool, { plan }] of runtime.rules.pools) {
      const isKnown = runtime.decided.state.plans.byPool.get(pool)?.windows.length ?? 0;
      if (plan === null || (plan.schedule.length === 0 && isKnown === 0)) continue;
      const windows = windowsOf(plan.schedule, Date.now());
      runtime.submit({ do: "plan.schedule", pool, windows }, () => undefined);
    }
  }

  /** What is free on this computer, where builds say what they need: agents say so of theirs. */
  #measure(): void {
    const { runtime } = this.#parts;
    if (runtime.failure) return;
    const { state, rules } = runtime.decided;
    const specs = [...state.builds.byLine.values()].flatMap(({ versions }) => [...versions.values()]);
    if (specs.every(({ spec: { needs } }) => needs.cpus === undefined && needs.memoryMb === undefined)) return;
    const measure = ownMeasure();
    for (const [machine, { driver }] of rules.machines)
      if (driver === "process") runtime.submit({ do: "machine.measure", machine, measure }, () => undefined);
  }

  /** Instances that have announced themselves must go on being outputRead. */
  async #lookForSilence(): Promise<void> {
    const { runtime, polls } = this.#parts;
    if (runtime.failure) return;
    const now = steadyMs();
    const expected = await runtime.query(({ state, rules }) =>
      [...state.pools.instances.values()]
        .filter(
          (one) => one.announced && !one.isWatched && !one.gone && one.state !== "failed" && one.state !== "draining",
        )
        .map(({ id, pool }) => ({ id, silenceMs: rules.pools.get(pool)?.silenceMs ?? Number.POSITIVE_INFINITY })),
    );
    for (const { id, silenceMs } of expected) {
      polls.expect(id, now);
      const silentForMs = polls.silentForMs(id, now);
      if (silentForMs <= silenceMs) continue;
      const detail = `no poll for ${Math.round(silentForMs / 1000)} s`;
      runtime.submit({ do: "instance.silent", instance: id, detail }, () => undefined);
    }
  }
}
