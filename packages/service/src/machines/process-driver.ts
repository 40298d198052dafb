import { readFileSync, writeFileSync } from "node:fs";
import { join, resolve } from "node:path";
import { type BuildSpec, type InstanceId, morePortsOf, type Transport } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import { fileOfCommand } from "../config/commands.ts";
import { every } from "../runtime/every.ts";
import { whyAssetsWritable } from "./assets.ts";
import { type CgroupPlace, Cgroups } from "./cgroups.ts";
import { whyFileDiffers } from "./checksum.ts";
import type { DriverEvents, LaunchRequest, MachineDriver, Output, OutputStream } from "./driver.ts";
import { launch } from "./launch.ts";
import { outputOf } from "./output-file.ts";
import { type OutputLimits, outputName, sweepOutput, trimOutput } from "./output-keeper.ts";
import { whyPortIsTaken } from "./port-taken.ts";
import { isRunning, residentByGroup, startedAt } from "./process-info.ts";
import type { RunAs } from "./run-as.ts";

const LOOK_EVERY_MS = 500;
/** Output is held within its bounds at this pace: so often files are measured, however fast they grow. */
const TRIM_EVERY_MS = 250;
const SWEEP_EVERY_MS = 30_000;
/** What an instance has left running may end by itself for so long. */
const LEFTOVER_MS = 1_000;

export interface ProcessDriverParts {
  /** Holds a folder for each instance. */
  readonly folder: string;
  /** Folder that relative commands and arguments count from. */
  readonly workingFolder: string;
  /** Address at which instances reach the service. Asked for at each start, since the port may be chosen late. */
  readonly serviceUrl: () => string;
  readonly events: DriverEvents;
  readonly log: Logger;
  readonly output: OutputLimits;
  /** User that instances run as; the one that we are when absent. */
  readonly runAs?: RunAs | undefined;
  /** Where control groups for instances are made. */
  readonly cgroups?: CgroupPlace | undefined;
  /** Why a program may not be run here, beside what its build says; undefined when it may. */
  readonly whyNot?: ((spec: BuildSpec, file: string | undefined) => Promise<string | undefined>) | undefined;
}

/** What is written down about a process right after it was started, so that a later service can take it back. */
interface RunNote {
  readonly pid: number;
  readonly startedAt: string | undefined;
  /** Most resident memory that it may have. */
  readonly memoryMb?: number;
}

/**
 * Runs instances as processes of this computer. Each leads a session of its own and prints to files, so that it outlives
 * a restart of the service.
 */
export class ProcessDriver implements MachineDriver {
  readonly #parts: ProcessDriverParts;
  readonly #pids = new Map<InstanceId, number>();
  /** Processes that an earlier service started: they are no children, so they are looked at. */
  readonly #adopted = new Map<InstanceId, RunNote>();
  /** Most resident memory of those that have a limit, in MiB. */
  readonly #memory = new Map<InstanceId, number>();
  readonly #stopLooking: readonly (() => void)[];
  readonly #cgroups: Cgroups | undefined;
  /** Why there are no control groups. */
  readonly #unheld: string | undefined;
  #isToldUnheld = false;

  constructor(parts: ProcessDriverParts) {
    this.#parts = parts;
    const { log, folder, output } = parts;
    const cgroups = Cgroups.open(parts.cgroups ?? "off", folder);
    this.#cgroups = "why" in cgroups ? undefined : cgroups;
    this.#unheld = "why" in cgroups ? cgroups.why : undefined;
    this.#stopLooking = [
      every(LOOK_EVERY_MS, "looking for ended instances", log, () => this.#look()),
      every(LOOK_EVERY_MS, "measuring the memory of instances", log, () => this.#lookAtMemory()),
      every(TRIM_EVERY_MS, "trimming what instances print", log, () => trimOutput(folder, this.#pids.keys(), output)),
      every(SWEEP_EVERY_MS, "removing old output", log, () =>
        sweepOutput(folder, new Set(this.#pids.keys()), output, Date.now()),
      ),
      every(LOOK_EVERY_MS, "removing control groups", log, async () =>
        this.#cgroups?.sweep((one) => this.#pids.has(one)),
      ),
    ];
  }

  async start(request: LaunchRequest): Promise<void> {
    const { instance, spec } = request;
    const { events, workingFolder, serviceUrl } = this.#parts;
    const note = this.#readNote(instance);
    // A service that died between starting a process and writing that down comes here again.
    if (note && (await isSameProcess(note))) return this.#takeBack(instance, note);
    const fail = (detail: string, portTaken = false) => events.startFailed(instance, { detail, portTaken });
    for (const [port, transport] of portsOf(request)) {
      const taken = await whyPortIsTaken(port, transport);
      if (taken !== undefined)
        return fail(`port ${port}/${transport === "udp" ? "udp" : "tcp"} is taken (${taken})`, true);
    }
    try {
      const base = resolve(workingFolder, spec.folder ?? ".");
      const differs = spec.checksum && (await whyFileDiffers(fileOfCommand(spec.command, base), spec.checksum));
      if (differs) return fail(differs);
      const forbidden = await this.#parts.whyNot?.(spec, fileOfCommand(spec.command, base));
      if (forbidden !== undefined) return fail(forbidden);
      const writable = spec.assets && whyAssetsWritable(resolve(workingFolder, spec.assets), this.#parts.runAs);
      if (writable) return fail(writable);
      this.#tellUnheld(request);
      const child = launch(request, {
        group: this.#cgroups?.make(instance, spec),
        ownFolder: this.#folderOf(instance),
        workingFolder,
        serviceUrl: serviceUrl(),
        runAs: this.#parts.runAs,
      });
      child.once("error", (error) => {
        this.#pids.delete(instance);
        fail(`${spec.command}: ${error.message}`);
      });
      const { pid } = child;
      // Without a pid the error event says why.
      if (pid === undefined) return;
      this.#pids.set(instance, pid);
      child.once("exit", (exitCode, signal) => {
        this.#pids.delete(instance);
        this.#memory.delete(instance);
        this.#endLeftovers(instance, pid);
        events.exited(instance, { exitCode, signal });
      });
      child.unref();
      const { memoryMb } = spec.limits;
      const note: RunNote = { pid, startedAt: await startedAt(pid), ...(memoryMb !== undefined && { memoryMb }) };
      writeFileSync(this.#noteFile(instance), JSON.stringify(note));
      if (memoryMb !== undefined) this.#memory.set(instance, memoryMb);
      events.spawned(instance, pid);
    } catch (error) {
      fail((error as Error).message);
    }
  }

  async adopt(instance: InstanceId, pid: number): Promise<void> {
    if (this.#pids.has(instance)) return;
    const note = this.#readNote(instance) ?? (pid > 0 ? { pid, startedAt: undefined } : undefined);
    if (note && (await isSameProcess(note))) return this.#takeBack(instance, note);
    this.#parts.events.exited(instance, { exitCode: null, signal: null });
  }

  signal(instance: InstanceId, how: "terminate" | "kill"): void {
    const pid = this.#pids.get(instance);
    if (pid === undefined) return;
    const name = how === "kill" ? "SIGKILL" : "SIGTERM";
    try {
      // The whole process group: a server started through a wrapper must not survive it.
      process.kill(-pid, name);
      if (how === "kill") this.#cgroups?.kill(instance);
    } catch (error) {
      this.#parts.log.warn({ err: error, instance, pid }, "an instance could not be signalled");
    }
  }

  output(instance: InstanceId, stream: OutputStream): Output {
    return outputOf(join(this.#folderOf(instance), outputName(stream)));
  }

  running(): readonly InstanceId[] {
    return [...this.#pids.keys()];
  }

  close(): void {
    for (const stop of this.#stopLooking) stop();
    this.#cgroups?.close();
  }

  /** Ends what a process that is gone has left running, also what has left its process group. */
  #endLeftovers(instance: InstanceId, pid: number): void {
    const { events } = this.#parts;
    if (this.#cgroups?.wasOverMemory(instance)) events.overLimit(instance, "the system ended it for its memory");
    endGroup(pid);
    const group = this.#cgroups;
    if (group && !group.isEmpty(instance)) setTimeout(() => group.kill(instance), LEFTOVER_MS);
  }

  /** Says once, and by name, which limit of a build the system does not hold here. */
  #tellUnheld({ spec: { limits }, instance }: LaunchRequest): void {
    const isCpuHeld = limits.cpus === undefined || this.#cgroups?.controllers.has("cpu") === true;
    if (isCpuHeld || this.#isToldUnheld) return;
    this.#isToldUnheld = true;
    const why = this.#unheld ?? "the cpu controller may not be used in the service's control group";
    this.#parts.log.warn({ instance, why }, "limits.cpus of builds is not held on this computer");
  }

  #takeBack(instance: InstanceId, note: RunNote): void {
    this.#pids.set(instance, note.pid);
    this.#adopted.set(instance, note);
    if (note.memoryMb !== undefined) this.#memory.set(instance, note.memoryMb);
    this.#parts.events.spawned(instance, note.pid);
  }

  async #look(): Promise<void> {
    for (const [instance, note] of this.#adopted) {
      if (await isSameProcess(note)) continue;
      this.#adopted.delete(instance);
      this.#pids.delete(instance);
      this.#memory.delete(instance);
      this.#endLeftovers(instance, note.pid);
      this.#parts.events.exited(instance, { exitCode: null, signal: null });
    }
  }

  /** Whoever takes more memory than it may is given up: the system would sooner or later take it from others. */
  async #lookAtMemory(): Promise<void> {
    if (this.#memory.size === 0) return;
    const groups = await residentByGroup();
    for (const [instance, maxMb] of this.#memory) {
      const mb = Math.round((groups.get(this.#pids.get(instance) ?? 0) ?? 0) / 2 ** 20);
      if (mb <= maxMb) continue;
      this.#memory.delete(instance);
      this.#parts.events.overLimit(instance, `used ${mb} MiB of memory, more than the ${maxMb} it may`);
    }
  }

  #folderOf(instance: InstanceId): string {
    return join(this.#parts.folder, instance);
  }

  #noteFile(instance: InstanceId): string {
    return join(this.#folderOf(instance), "run.json");
  }

  #readNote(instance: InstanceId): RunNote | undefined {
    try {
      return JSON.parse(readFileSync(this.#noteFile(instance), "utf8")) as RunNote;
    } catch {
      return undefined;
    }
  }
}

/** Ends what a process that is gone has left running: it led a session of its own, so its group is nobody else's. */
function endGroup(pid: number): void {
  const tell = (signal: "SIGTERM" | "SIGKILL") => {
    try {
      return process.kill(-pid, signal);
    } catch {
      return false;
    }
  };
  if (tell("SIGTERM")) setTimeout(() => tell("SIGKILL"), LEFTOVER_MS);
}

async function isSameProcess({ pid, startedAt: then }: RunNote): Promise<boolean> {
  if (!(await isRunning(pid))) return false;
  return then === undefined || (await startedAt(pid)) === then;
}

/** All ports of an instance, each with what is to speak there. */
const portsOf = ({ spec, address, ports }: LaunchRequest): [number, Transport][] => [
  [address.port, spec.transport],
  ...morePortsOf(spec).flatMap(([purpose, transport]): [number, Transport][] => {
    const port = ports[purpose];
    return port === undefined ? [] : [[port, transport]];
  }),
];
