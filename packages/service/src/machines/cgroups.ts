import { createHash } from "node:crypto";
import { mkdirSync, readdirSync, readFileSync, rmdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { BuildSpec, InstanceId } from "@yellow-harbor/protocol";

/** Where the groups of instances are made: in the service's own group when it has one, nowhere, or in this folder. */
export type CgroupPlace = "auto" | "off" | string;

/** The period of a CPU limit, in microseconds: the one that the system takes by itself (cgroups(7), cpu.max). */
const PERIOD_US = 100_000;

/**
 * A control group (version 2) for each instance: whatever it starts is in it and ends with it, however it detaches itself,
 * and the system holds its CPUs and its memory where those controllers may be used. All by plain files (cgroups(7)).
 */
export class Cgroups {
  readonly #folder: string;
  /** What can be limited: `cpu`, `memory`. Ending everything at once works without any. */
  readonly controllers: ReadonlySet<string>;

  private constructor(folder: string, controllers: ReadonlySet<string>) {
    this.#folder = folder;
    this.controllers = controllers;
  }

  /** The groups of a driver, whose instances are kept in `folder`; or why there are none. */
  static open(place: CgroupPlace, folder: string): Cgroups | { readonly why: string } {
    if (place === "off") return { why: "control groups are switched off" };
    const parent = place === "auto" ? ownGroup() : { path: place };
    if ("why" in parent) return parent;
    // Drivers of several folders may share the parent.
    const name = `yellow-harbor-${createHash("sha256").update(folder).digest("hex").slice(0, 12)}`;
    const own = join(parent.path, name);
    try {
      makeGroup(own);
      enable(parent.path);
      enable(own);
      return new Cgroups(own, controllersOf(own));
    } catch (error) {
      return { why: `${own} cannot be made (${(error as NodeJS.ErrnoException).code ?? (error as Error).message})` };
    }
  }

  /** Makes the group of an instance, with the limits of its build. Returns the file that a process writes its id to. */
  make(instance: InstanceId, { limits: { cpus, memoryMb } }: Pick<BuildSpec, "limits">): string {
    const group = this.#groupOf(instance);
    makeGroup(group);
    if (cpus !== undefined && this.controllers.has("cpu"))
      writeFileSync(join(group, "cpu.max"), `${Math.round(cpus * PERIOD_US)} ${PERIOD_US}`);
    if (memoryMb !== undefined && this.controllers.has("memory")) {
      writeFileSync(join(group, "memory.max"), String(memoryMb * 2 ** 20));
      // All of it ends, not one of its processes.
      writeFileSync(join(group, "memory.oom.group"), "1");
    }
    return join(group, "cgroup.procs");
  }

  /** Whether the system has ended it for its memory. */
  wasOverMemory(instance: InstanceId): boolean {
    const events = readOrNothing(join(this.#groupOf(instance), "memory.events"));
    return /^oom_kill [1-9]/m.test(events);
  }

  /** Whether anything of it runs. */
  isEmpty(instance: InstanceId): boolean {
    return readOrNothing(join(this.#groupOf(instance), "cgroup.procs")).trim() === "";
  }

  /** Ends all that an instance has started, at once. */
  kill(instance: InstanceId): void {
    try {
      writeFileSync(join(this.#groupOf(instance), "cgroup.kill"), "1");
    } catch {
      // A kernel before 5.14 has no such file; a group that is gone has no processes.
      for (const pid of readOrNothing(join(this.#groupOf(instance), "cgroup.procs")).split("\n")) {
        if (pid !== "") killOne(Number(pid));
      }
    }
  }

  /** Removes the groups in which nothing runs, but for those of instances that are known. */
  sweep(isKnown: (instance: InstanceId) => boolean): void {
    for (const entry of entriesOf(this.#folder)) if (!isKnown(entry)) removeIfEmpty(join(this.#folder, entry));
  }

  /** Removes what is empty. Instances that run on keep theirs. */
  close(): void {
    this.sweep(() => false);
    removeIfEmpty(this.#folder);
  }

  #groupOf(instance: InstanceId): string {
    return join(this.#folder, instance);
  }
}

/** The group that this process is in, unless that is the root of all. From `/proc/self/cgroup` and `/proc/self/mountinfo`. */
function ownGroup(): { readonly path: string } | { readonly why: string } {
  const own = /^0::(.*)$/m.exec(readOrNothing("/proc/self/cgroup"))?.[1];
  const mount = cgroupMount();
  if (own === undefined || mount === undefined) return { why: "this computer has no control groups of version 2" };
  if (own === "/")
    return { why: "the service is in no control group of its own (a unit of systemd with Delegate=yes has one)" };
  // A main process in a group below that of its unit, as DelegateSubgroup= makes it, leaves the unit's own free for others.
  return { path: join(mount, own.endsWith("/service") ? join(own, "..") : own) };
}

/** Where control groups of version 2 are, as the fifth field of their line says (proc(5), mountinfo). */
export function cgroupMount(): string | undefined {
  const line = readOrNothing("/proc/self/mountinfo")
    .split("\n")
    .find((one) => one.includes(" - cgroup2 "));
  return line?.split(" ")[4];
}

/** What is above it has to be there: folders that the system makes up are no place to make several at once. */
function makeGroup(path: string): void {
  try {
    mkdirSync(path);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
  }
}

/** Lets the groups below limit what may be limited here. Where processes are in the group itself the system refuses. */
function enable(group: string): void {
  for (const controller of controllersOf(group)) {
    if (controller !== "cpu" && controller !== "memory") continue;
    try {
      writeFileSync(join(group, "cgroup.subtree_control"), `+${controller}`);
    } catch {
      // Then it is not among what can be limited below.
    }
  }
}

const controllersOf = (group: string): ReadonlySet<string> =>
  new Set(readOrNothing(join(group, "cgroup.controllers")).trim().split(" ").filter(Boolean));

function readOrNothing(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch {
    return "";
  }
}

function entriesOf(folder: string): string[] {
  try {
    return readdirSync(folder, { withFileTypes: true })
      .filter((entry) => entry.isDirectory())
      .map(({ name }) => name);
  } catch {
    return [];
  }
}

/** The system removes no group in which something runs. */
function removeIfEmpty(group: string): void {
  try {
    rmdirSync(group);
  } catch {
    // It is in use, or gone.
  }
}

function killOne(pid: number): void {
  try {
    process.kill(pid, "SIGKILL");
  } catch {
    // It has ended meanwhile.
  }
}
