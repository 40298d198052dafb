import { availableParallelism, freemem, loadavg, totalmem } from "node:os";
import type { Measure } from "@yellow-harbor/core";

const MIB = 2 ** 20;

/** What this computer has, and how much of it is in use: over the last minute where the system tells. */
export function ownMeasure(): Measure {
  const cpus = availableParallelism();
  const [minute = 0] = loadavg();
  return {
    cpus,
    memoryMb: Math.floor(totalmem() / MIB),
    load: Math.min(1, Math.round((100 * minute) / cpus) / 100),
    memoryFreeMb: Math.floor(freemem() / MIB),
  };
}
