import { readdir, readFile } from "node:fs/promises";

/** Whether a process with this id runs now. A process that has ended but was not yet reaped does not. */
export async function isRunning(pid: number): Promise<boolean> {
  try {
    process.kill(pid, 0);
  } catch (error) {
    // EPERM: it runs, but is somebody else's.
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
  return (await startedAt(pid)) !== "zombie";
}

/**
 * When a process was started, as the system counts it, or undefined where the system does not say: process ids are
 * reused, so an id alone does not name a process. From `/proc/PID/stat`, field 22 (proc(5)).
 */
export async function startedAt(pid: number): Promise<string | undefined> {
  try {
    const stat = await readFile(`/proc/${pid}/stat`, "utf8");
    // The second field is the command in parentheses, which may itself hold spaces and parentheses.
    const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
    return fields[0] === "Z" ? "zombie" : fields[19];
  } catch {
    return undefined;
  }
}

const PAGE_BYTES = 4_096;

/**
 * Resident memory of each process group, in bytes, by the id of its leader; empty where the system does not say. From
 * `/proc/PID/stat`, fields 5 and 24 (proc(5)). Pages that processes share are counted for each.
 */
export async function residentByGroup(): Promise<Map<number, number>> {
  const groups = new Map<number, number>();
  const pids = (await readdir("/proc").catch(() => [])).filter((name) => /^\d+$/.test(name));
  for (const pid of pids) {
    const stat = await readFile(`/proc/${pid}/stat`, "utf8").catch(() => undefined);
    if (stat === undefined) continue;
    const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
    const group = Number(fields[2]);
    groups.set(group, (groups.get(group) ?? 0) + Number(fields[21]) * PAGE_BYTES);
  }
  return groups;
}
