import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";

/** Resident bytes of a process (proc_pid_status(5), VmRSS). */
export function residentBytes(pid: number): number {
  const [, kibibytes = "0"] = /^VmRSS:\s+(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, "utf8")) ?? [];
  return Number(kibibytes) * 1024;
}

/** Processor time that a process has used, in user and in system mode, in milliseconds (proc_pid_stat(5)). */
export function cpuMs(pid: number): number {
  const text = readFileSync(`/proc/${pid}/stat`, "utf8");
  // The second field is the name in brackets, which may hold blanks.
  const fields = text.slice(text.lastIndexOf(")") + 2).split(" ");
  return ((Number(fields[11]) + Number(fields[12])) * 1000) / ticksPerSecond();
}

let ticks: number | undefined;
function ticksPerSecond(): number {
  ticks ??= Number(execFileSync("getconf", ["CLK_TCK"], { encoding: "utf8" }));
  return ticks;
}
