import type { Command, InstanceEffect, OwedPass, ProbeWorld, ReplyTo } from "@yellow-harbor/core";
import type { Instruction, MatchAssignment } from "@yellow-harbor/protocol";
import { Fault } from "./fault.ts";
import type { MachineMove } from "./script.ts";
import type { Shadow } from "./shadow.ts";
import type { SimPlayer } from "./sim-player.ts";

/** A process that a service has started. It outlives every service. */
interface SimProcess {
  readonly instance: string;
  readonly port: number;
  readonly pid: number;
  isAlive: boolean;
  /** Alive, and does nothing any more. */
  hangs: boolean;
  isAnnounced: boolean;
  isStopping: boolean;
  /** Number of the last instruction it has carried out. */
  acknowledged: number;
  match: MatchAssignment | undefined;
  readonly aboard: Set<string>;
  exit: { readonly exitCode: number | null; readonly signal: string | null } | undefined;
}

/** What a process or a driver tells the service; `answer` gets the reply, if the service lives to give one. */
export type Tell = <C extends Command>(command: C, answer?: (reply: ReplyTo<C["do"]> | undefined) => void) => void;

/** A computer that runs instances, and the driver by which a service sees it. */
export class SimMachine {
  readonly #processes = new Map<string, SimProcess>();
  readonly #shadow: Shadow;
  #pids = 100;
  /** Reports of the driver that are under way to the service that is there now. */
  #reports: Command[] = [];
  #probes: { readonly instance: string }[] = [];
  /** Processes whose end the service that is there now would hear of. */
  #watched = new Set<string>();
  started = 0;

  constructor(shadow: Shadow) {
    this.#shadow = shadow;
  }

  get alive(): readonly SimProcess[] {
    return [...this.#processes.values()].filter(({ isAlive }) => isAlive);
  }

  /** The service is gone, and its driver with it. */
  forgetService(): void {
    this.#reports = [];
    this.#probes = [];
    this.#watched = new Set();
  }

  carryOut(effect: InstanceEffect | ProbeWorld): void {
    if (effect.effect === "probe-world") return void this.#reports.push(worldProbed(effect));
    const { instance } = effect;
    switch (effect.effect) {
      case "start-instance":
        return this.#start(instance, effect.address.port);
      case "watch-instance":
        return this.#adopt(instance);
      case "probe-instance":
        return void this.#probes.push({ instance });
      case "wake-instance":
        return;
      case "signal-instance":
        return this.#signal(instance, effect.signal);
    }
  }

  /** Hands over what the driver has to report. Returns how much that was. */
  report(tell: Tell): number {
    const reports = this.#reports.splice(0);
    for (const report of reports) tell(report);
    return reports.length;
  }

  get hasReports(): boolean {
    return this.#reports.length > 0;
  }

  /** Something happens to, or is done by, one of the processes. */
  move(which: number, what: MachineMove, n: number, players: readonly SimPlayer[], tell: Tell): void {
    const processes = this.alive;
    const process = processes[which % Math.max(1, processes.length)];
    if (process === undefined) return;
    if (what === "crash") return this.#end(process, { exitCode: null, signal: "SIGSEGV" });
    if (what === "hang") process.hangs = true;
    if (what === "silent" && process.hangs) {
      tell({ do: "instance.silent", instance: process.instance, detail: "no poll for 15 s" });
    }
    if (what === "probe") return this.#probe(tell);
    if (process.hangs) return;
    this.#act(process, what, n, players, tell);
  }

  /** A process does what it has to do next. */
  onward(which: number, players: readonly SimPlayer[], tell: Tell): void {
    if (this.#probes.length > 0) return this.#probe(tell);
    const processes = this.alive;
    const process = processes[which % Math.max(1, processes.length)];
    if (process === undefined) return;
    if (process.hangs) return tell({ do: "instance.silent", instance: process.instance, detail: "no poll for 15 s" });
    const next = nextMove(process, which, players);
    this.#act(process, next, which, players, tell);
  }

  #act(process: SimProcess, what: MachineMove, n: number, players: readonly SimPlayer[], tell: Tell): void {
    const { instance, port, pid, match } = process;
    switch (what) {
      case "announce":
        return tell({ do: "instance.announce", instance, port, pid }, (reply) => {
          if (reply) process.isAnnounced = true;
          else this.#end(process, { exitCode: 1, signal: null });
        });
      case "poll":
        return tell({ do: "instance.acknowledge", instance, acknowledged: process.acknowledged }, (reply) =>
          reply
            ? follow(process, reply.instructions as readonly Instruction[])
            : this.#end(process, { exitCode: 1, signal: null }),
        );
      case "board":
        return this.#board(process, n, players, tell);
      case "unboard": {
        const [player] = process.aboard;
        if (player === undefined) return;
        process.aboard.delete(player);
        return tell({ do: "instance.unboard", instance, player, reason: n % 2 ? "left" : "lost" });
      }
      case "report": {
        if (match === undefined) return;
        const standings = match.players.map(({ id }, at) => ({ player: id, score: at + n }));
        return tell({ do: "instance.report", instance, run: match.run, standings, note: undefined }, () => {
          if (process.match === match) endMatch(process);
        });
      }
      case "goodbye":
        if (process.isStopping) tell({ do: "instance.goodbye", instance, reason: "done" });
        return;
      case "exit":
        if (process.isStopping) this.#end(process, { exitCode: 0, signal: null });
        return;
      default:
        return;
    }
  }

  #board({ instance, aboard, match, hangs }: SimProcess, n: number, players: readonly SimPlayer[], tell: Tell): void {
    const joiningPlayers = joiningPlayersOf(instance, aboard, players);
    const joining = joiningPlayers[n % Math.max(1, joiningPlayers.length)];
    if (joining?.pass === undefined || hangs) return;
    const { pass, player, run } = joining.pass as OwedPass;
    if (match?.run !== run) return;
    tell({ do: "instance.board", instance, player, pass, run, attempt: `${player}-${run}` }, (reply) => {
      if (reply) aboard.add(player);
    });
  }

  #probe(tell: Tell): void {
    const probe = this.#probes.shift();
    if (probe === undefined) return;
    const process = this.#processes.get(probe.instance);
    const reached = process?.isAlive === true && !process.hangs;
    tell({ do: "instance.probed", instance: probe.instance, reached, detail: reached ? "reached" : "refused" });
  }

  #start(instance: string, port: number): void {
    if (!this.#shadow.state.pools.instances.has(instance)) {
      throw new Fault("early-start", `instance ${instance} is started before its instruction is durable`);
    }
    const known = this.#processes.get(instance);
    if (known?.isAlive) return this.#takeBack(known);
    const other = this.alive.find((one) => one.port === port);
    if (other) throw new Fault("shared-port", `${instance} is started on port ${port}, where ${other.instance} runs`);
    this.#pids += 1;
    this.started += 1;
    const process: SimProcess = {
      instance,
      port,
      pid: this.#pids,
      isAlive: true,
      hangs: false,
      isAnnounced: false,
      isStopping: false,
      acknowledged: 0,
      match: undefined,
      aboard: new Set<string>(),
      exit: undefined,
    };
    this.#processes.set(instance, process);
    this.#takeBack(process);
  }

  #adopt(instance: string): void {
    const process = this.#processes.get(instance);
    if (process?.isAlive) return this.#takeBack(process);
    this.#reports.push({ do: "instance.exited", instance, exitCode: null, signal: null });
  }

  #takeBack({ instance, pid }: SimProcess): void {
    this.#watched.add(instance);
    this.#reports.push({ do: "instance.spawned", instance, pid });
  }

  #signal(instance: string, signal: "terminate" | "kill"): void {
    const process = this.#processes.get(instance);
    const state = this.#shadow.state.pools.instances.get(instance)?.state;
    if (state !== undefined && state !== "failed" && state !== "draining" && state !== "ended") {
      throw new Fault("killed-under-players", `instance ${instance} is ${state} and gets the signal to ${signal}`);
    }
    // A process that a new driver does not know yet cannot be signalled by it.
    if (!process?.isAlive || !this.#watched.has(instance)) return;
    if (signal === "kill") this.#end(process, { exitCode: null, signal: "SIGKILL" });
    else if (!process.hangs) this.#end(process, { exitCode: null, signal: "SIGTERM" });
  }

  #end(process: SimProcess, exit: { exitCode: number | null; signal: string | null }): void {
    if (!process.isAlive) return;
    process.isAlive = false;
    process.exit = exit;
    if (this.#watched.has(process.instance)) {
      this.#reports.push({ do: "instance.exited", instance: process.instance, ...exit });
    }
  }
}

/** Of the ports that members offer every fourth is closed, and every third behind something that cannot be seen through. */
function worldProbed({ run, player, addresses }: ProbeWorld): Command {
  const probed = addresses.map((address) => {
    const reached = address.port % 4 === 0 ? false : address.port % 3 === 0 ? null : true;
    return { address, reached, detail: "was looked at" };
  });
  return { do: "travel.world-probed", run, player, probed };
}

/** Who has a pass for an instance and is not aboard it. */
const joiningPlayersOf = (instance: string, aboard: ReadonlySet<string>, players: readonly SimPlayer[]) =>
  players.filter(
    ({ id, pass }) =>
      pass !== undefined && "instance" in pass.to && pass.to.instance === instance && !aboard.has(id ?? ""),
  );

function nextMove(process: SimProcess, n: number, players: readonly SimPlayer[]): MachineMove {
  const { instance, isAnnounced, isStopping, match, aboard } = process;
  if (!isAnnounced) return "announce";
  if (isStopping) return "exit";
  if (match === undefined) return "poll";
  if (joiningPlayersOf(instance, aboard, players).length > 0) return "board";
  return n % 3 === 0 && aboard.size > 0 ? "report" : n % 16 === 1 ? "unboard" : "poll";
}

function follow(process: SimProcess, instructions: readonly Instruction[]): void {
  for (const instruction of instructions) {
    if (instruction.number <= process.acknowledged) continue;
    if (instruction.number !== process.acknowledged + 1) {
      throw new Fault(
        "instruction-lost",
        `${process.instance} gets instruction ${instruction.number} after ${process.acknowledged}`,
      );
    }
    process.acknowledged = instruction.number;
    carryOut(process, instruction);
  }
}

function carryOut(process: SimProcess, instruction: Instruction): void {
  switch (instruction.instruction) {
    case "match-assigned":
      if (process.match) throw new Fault("two-matches", `${process.instance} gets a match while it runs another`);
      process.match = { ...instruction.match, players: [...instruction.match.players] };
      return;
    case "expect-player":
      if (process.match?.run === instruction.run) process.match.players.push(instruction.player);
      return;
    case "release-player":
      if (process.match?.run === instruction.run) release(process, instruction.player);
      return;
    case "match-started":
      if (process.match && process.match.run !== instruction.run) {
        throw new Fault(
          "wrong-run",
          `${process.instance} is told to begin ${instruction.run} and has ${process.match.run}`,
        );
      }
      return;
    case "end-match":
      if (process.match?.run === instruction.run) endMatch(process);
      return;
    case "stop":
      process.isStopping = true;
  }
}

function release(process: SimProcess, player: string): void {
  process.aboard.delete(player);
  const { match } = process;
  if (match) match.players = match.players.filter(({ id }) => id !== player);
}

function endMatch(process: SimProcess): void {
  process.match = undefined;
  process.aboard.clear();
}
