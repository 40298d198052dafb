import { existsSync } from "node:fs";
import { join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { setFlagsFromString } from "node:v8";
import { ProblemError } from "@yellow-harbor/client";
import { PORT_MAX } from "@yellow-harbor/protocol";
import type { Override, RunningService } from "@yellow-harbor/service";
import { type Command, Option } from "commander";
import { overridesOf, readConfig, withConfigOptions } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";

const CONSOLE_FOLDER = fileURLToPath(new URL("../../../console/dist/app", import.meta.url));

interface ServeOptions {
  readonly config: string;
  readonly set?: readonly string[];
  readonly host?: string;
  readonly port?: number;
  readonly data?: string;
  readonly stopInstances?: boolean;
  readonly workers?: number;
  readonly acceptRisk?: readonly string[];
}

export function addServe(program: Command): void {
  withConfigOptions(program.command("serve"))
    .description("run the service until it is told to stop (SIGTERM or Ctrl-C)")
    .option("--host <address>", "listen on this address instead of the configured one")
    .option(
      "-p, --port <number>",
      "listen on this port instead of the configured one; 0 takes any free one",
      wholeNumber("--port", 0, PORT_MAX),
    )
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .option(
      "-w, --workers <number>",
      "processes to run in: all but the first have the connections of players",
      wholeNumber("--workers", 1, 256),
    )
    .option("--stop-instances", "stop dedicated instances with the service instead of letting them play on")
    .addOption(
      new Option("--accept-risk <name...>", "start in spite of a risk that it refuses to start with").env(
        "YH_ACCEPT_RISKS",
      ),
    )
    .action(async (options: ServeOptions) => {
      const service = await start(options);
      // Not before: a start with a large harbor makes much that stays, and is not to stop for collections.
      setFlagsFromString(`--heap-growing-percent=${HEAP_GROWTH}`);
      // A terminal that is closed sends the same signal, and means the end.
      if (!process.stdin.isTTY) process.on("SIGHUP", () => void service.reload());
      await untilToldToStop(service);
    });
}

/**
 * By how much, in percent, the old part of the heap may grow before it is collected again. By itself the engine lets it
 * grow to several times of what lives there, which is memory that a service with many idle players holds for nothing.
 */
const HEAP_GROWTH = 50;

async function start(options: ServeOptions) {
  // Loaded here, so that the other commands do not wait for it.
  const { loadConfig, RISKS, serve } = await import("@yellow-harbor/service");
  const { workers, stopInstances, acceptRisk = [] } = options;
  // In the environment they are one text.
  const acceptRisks = [acceptRisk].flat().flatMap((names) => names.split(/[\s,]+/));
  const unknown = acceptRisks.find((name) => name !== "" && !RISKS.some((risk) => risk === name));
  if (unknown !== undefined) {
    throw ProblemError.of("usage", `--accept-risk ${unknown} is none; there are ${RISKS.join(", ")}.`);
  }
  const overrides = await overridesOf(options.set, flagsOf(options));
  const { config, file, folder } = await readConfig(options.config, overrides);
  return serve({
    config,
    folder,
    stopInstances,
    ...(workers !== undefined && { workers }),
    acceptRisks,
    reload: () => loadConfig(file, overrides, { checksums: false }),
    ...(existsSync(join(CONSOLE_FOLDER, "index.html")) && { consoleFolder: CONSOLE_FOLDER }),
  });
}

/** Flags of their own for what is changed most. */
function flagsOf({ host, port, data }: ServeOptions): Override[] {
  return [
    ...(host === undefined ? [] : [{ path: ["listen", "host"], value: host, from: "--host" }]),
    ...(port === undefined ? [] : [{ path: ["listen", "port"], value: port, from: "--port" }]),
    ...(data === undefined ? [] : [{ path: ["data"], value: resolve(data), from: "--data" }]),
  ];
}

/** Ends when a signal comes, or an operator asks for it; a signal after that ends at once. */
async function untilToldToStop({ stop, drained }: Pick<RunningService, "stop" | "drained">): Promise<void> {
  const signalled = new Promise<void>((resolveOnce) => {
    for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => resolveOnce());
  });
  await Promise.race([signalled, drained]);
  for (const signal of ["SIGTERM", "SIGINT"] as const) process.once(signal, () => process.exit(1));
  await stop();
}
