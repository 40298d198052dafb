import { type ChildProcess, spawn } from "node:child_process";
import { fileURLToPath } from "node:url";

const YH = fileURLToPath(new URL("../../../../packages/cli/bin/yh.js", import.meta.url));
export const DEMO_CONFIG = fileURLToPath(new URL("../../harbor.yaml", import.meta.url));

export interface ServiceProcess {
  readonly url: string;
  /** Resolves with the exit code when the process has ended. */
  readonly ended: Promise<number | null>;
  /** Asks it to stop, with all its instances; kills it when it takes too long. */
  stop(): Promise<void>;
}

export interface ServiceProcessOptions {
  readonly port: number;
  readonly host?: string;
  readonly data?: string;
  /** Processes that it runs in. */
  readonly workers?: number;
  readonly config?: string;
  /** Gets what the service logs, line by line. */
  readonly log?: (line: string) => void;
}

/** The service ended before it was ready. */
export class ServiceStartError extends Error {
  readonly exitCode: number | null;
  constructor(message: string, exitCode: number | null) {
    super(message);
    this.exitCode = exitCode;
  }
}

const STOP_MS = 4_500;

/** Starts `yh serve` as a process of its own and waits until it is ready. */
export async function startService({
  port,
  host,
  data,
  config = DEMO_CONFIG,
  log,
  workers = 1,
}: ServiceProcessOptions): Promise<ServiceProcess> {
  const args = [YH, "serve", "--config", config, "--port", String(port), "--stop-instances"];
  if (workers > 1) args.push("--workers", String(workers));
  if (host !== undefined) args.push("--host", host);
  if (data !== undefined) args.push("--data", data);
  // A group of its own: Ctrl-C in a terminal reaches whoever started us, who then stops the service in order.
  const child = spawn(process.execPath, args, { stdio: ["ignore", "pipe", "pipe"], detached: true });
  const ended = new Promise<number | null>((resolve) => child.once("exit", resolve));
  const url = await untilReady(child, ended, log);
  return { url, ended, stop: () => stop(child, ended) };
}

function untilReady(
  child: ChildProcess,
  ended: Promise<number | null>,
  log: ((line: string) => void) | undefined,
): Promise<string> {
  return new Promise((resolve, reject) => {
    let complaint = "";
    let rest = "";
    child.stderr?.on("data", (chunk: Buffer) => {
      complaint += chunk;
    });
    child.stdout?.on("data", (chunk: Buffer) => {
      const lines = (rest + chunk).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) {
        log?.(line);
        const entry = JSON.parse(line) as { msg?: string; url?: string };
        if (entry.msg === "ready" && entry.url !== undefined) resolve(entry.url);
      }
    });
    void ended.then((exitCode) =>
      reject(new ServiceStartError(complaint.trim() || `the service ended with code ${exitCode}`, exitCode)),
    );
  });
}

async function stop(child: ChildProcess, ended: Promise<number | null>): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  child.kill("SIGTERM");
  const force = setTimeout(() => child.kill("SIGKILL"), STOP_MS);
  await ended;
  clearTimeout(force);
}
