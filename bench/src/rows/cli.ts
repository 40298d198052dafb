import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";
import type { Row } from "../row.ts";
import { startBenchService } from "../service.ts";

const YH = fileURLToPath(new URL("../../../packages/cli/bin/yh.js", import.meta.url));

/** A whole command that asks a service, beside the start of a process that does nothing. */
export const cli: Row = {
  name: "cli",
  about: "yh status from start to exit, of a service that runs; ceiling: node -e 0",
  unit: "ms",
  goal: 2,
  higherIsBetter: false,
  rounds: 15,
  warmUps: 2,
  prepare: async () => {
    const service = await startBenchService();
    return {
      ours: () => timed([YH, "status", "--url", service.url]),
      ceiling: () => timed(["-e", "0"]),
      whereTheTimeGoes: () => "compiling and making the schemas that answers are held against; see node --cpu-prof",
      end: () => service.end(),
    };
  },
};

function timed(args: readonly string[]): Promise<number> {
  const begin = performance.now();
  return new Promise((resolve, reject) =>
    spawn(process.execPath, args, { stdio: "ignore" }).once("exit", (code) =>
      code === 0 ? resolve(performance.now() - begin) : reject(new Error(`node ${args.join(" ")} ended with ${code}`)),
    ),
  );
}
