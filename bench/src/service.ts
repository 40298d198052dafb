import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const YH = fileURLToPath(new URL("../../packages/cli/bin/yh.js", import.meta.url));
export const BENCH_BUILD = "bench-1";

const CONFIG = `
harbor: bench
data: data
listen: { port: 0 }
operators: { access: open }
players: { builds: [${BENCH_BUILD}], framesPerSecond: 100000, perAddress: { connections: 1000000, sockets: 1000000, perSecond: 1000000 } }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 64, default: 4 }, levels: [brine-gate], relay: { perSecond: 100000 } } }
levels: { brine-gate: { title: Brine Gate, players: { min: 2, max: 64 }, pool: sluice } }
builds: { none: { command: "true" } }
pools: { sluice: { build: none, ports: { from: 7600, to: 7609 } } }
`;

export interface BenchService {
  readonly url: string;
  readonly pid: number;
  /** From the start of the process to ready, in milliseconds. */
  readonly readyMs: number;
  readonly end: () => Promise<void>;
  /** Has it end by SIGTERM, and starts it again on the same port and data folder; resolves once it is ready. */
  readonly restart: () => Promise<void>;
  /** Ends it as a power cut would. */
  readonly kill: () => Promise<void>;
}

/** Writes the configuration into a folder; returns the file. */
export function writeBenchConfig(folder: string, change: (config: string) => string): string {
  const file = join(folder, "harbor.yaml");
  writeFileSync(file, change(CONFIG));
  return file;
}

/** `yh serve` as a process of its own. `change` rewrites the configuration first; `fill` its empty data folder; `args` are of `yh serve`. */
export async function startBenchService(
  change: (config: string) => string = (config) => config,
  fill: (dataFolder: string) => void = () => undefined,
  args: readonly string[] = [],
): Promise<BenchService> {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-bench-"));
  const config = writeBenchConfig(folder, change);
  fill(join(folder, "data"));
  const start = (more: readonly string[] = []) =>
    spawn(process.execPath, [YH, "serve", "--config", config, ...args, ...more], {
      stdio: ["ignore", "pipe", "inherit"],
    });
  const begin = performance.now();
  let child = start();
  const url = await untilReady(child);
  const readyMs = performance.now() - begin;
  const end = async (signal: NodeJS.Signals) => {
    await ended(child, signal);
    rmSync(folder, { recursive: true, force: true });
  };
  const restart = async () => {
    await ended(child, "SIGTERM");
    child = start(["--port", new URL(url).port]);
    await untilReady(child);
  };
  return { url, readyMs, pid: child.pid ?? 0, restart, end: () => end("SIGTERM"), kill: () => end("SIGKILL") };
}

async function ended(child: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  const exit = new Promise((resolve) => child.once("exit", resolve));
  child.kill(signal);
  await exit;
}

function untilReady(child: ChildProcess): Promise<string> {
  return new Promise((resolve, reject) => {
    let printed = "";
    child.once("exit", (code) => reject(new Error(`the service ended with code ${code}: ${printed}`)));
    child.stdout?.on("data", (chunk: Buffer) => {
      printed += chunk;
      const line = printed.split("\n").find((one) => one.includes('"msg":"ready"'));
      if (line) resolve((JSON.parse(line) as { url: string }).url);
    });
  });
}
