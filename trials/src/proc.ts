import { readdirSync } from "node:fs";
import { readdir, readFile } from "node:fs/promises";

/** Files, sockets and pipes that a process has open; 0 where the system does not tell. */
export function handlesOf(pid: number): number {
  try {
    return readdirSync(`/proc/${pid}/fd`).length;
  } catch {
    return 0;
  }
}

/** Processes that were started as instances of a service, by the address that their environment names. */
export async function instancesOf(serviceUrl: string): Promise<number[]> {
  if (serviceUrl === "") return [];
  const pids = (await readdir("/proc").catch(() => [])).filter((name) => /^\d+$/.test(name));
  const found: number[] = [];
  for (const pid of pids) {
    const environment = await readFile(`/proc/${pid}/environ`, "utf8").catch(() => "");
    if (environment.split("\0").includes(`YELLOW_HARBOR_URL=${serviceUrl}`)) found.push(Number(pid));
  }
  return found;
}
