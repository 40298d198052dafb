import { spawn } from "node:child_process";
import type { Row } from "../row.ts";
import { startBenchService } from "../service.ts";

/** From nothing to ready, beside the start of a process that does nothing. */
export const boot: Row = {
  name: "boot",
  about: "yh serve on an empty folder to ready; ceiling: node -e 0",
  unit: "ms",
  goal: 8,
  higherIsBetter: false,
  rounds: 9,
  prepare: async () => ({
    ours: async () => {
      const service = await startBenchService();
      await service.end();
      return service.readyMs;
    },
    ceiling: startNode,
    whereTheTimeGoes: () => "loading modules comes first, then opening SQLite in its thread; see node --cpu-prof",
    end: async () => undefined,
  }),
};

function startNode(): Promise<number> {
  const begin = performance.now();
  return new Promise((resolve) =>
    spawn(process.execPath, ["-e", "0"]).once("exit", () => resolve(performance.now() - begin)),
  );
}
