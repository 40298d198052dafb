import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { instancesOf } from "./proc.ts";

const YH = fileURLToPath(new URL("../../packages/cli/bin/yh.js", import.meta.url));
const SERVER = fileURLToPath(new URL("../../examples/tidewrights/dist/server/main.js", import.meta.url));

export const TRIAL_BUILD = "trial-1";

const config = (port: number, graceMs: number) => `
harbor: trial
data: data
listen: { port: ${port} }
operators: { access: open }
players: { builds: [${TRIAL_BUILD}], framesPerSecond: 100000, graceMs: ${graceMs}, perAddress: { connections: 10000, sockets: 100000, perSecond: 100000 } }
lobbies: { quayside: { title: Quayside, roomKinds: [crews, hosted, relayed], chat: {} } }
roomKinds:
  hosted: { capacity: { max: 16, default: 4 }, levels: [brine-gate], graceMs: ${graceMs}, hostGraceMs: ${graceMs}, destinations: [player-hosted, relayed], resultBy: host }
  relayed: { capacity: { max: 16, default: 4 }, levels: [brine-gate], graceMs: ${graceMs}, hostGraceMs: ${graceMs}, destinations: [relayed], resultBy: host }
  crews: { capacity: { max: 16, default: 4 }, levels: [brine-gate], graceMs: ${graceMs}, hostGraceMs: ${graceMs} }
queues:
  pairs:
    { title: Pairs, lobby: quayside, roomKind: relayed, searchMs: 0, sides: { count: 2, max: 1 }, closeness: [{ attribute: skill, gap: [[0, 1]] }] }
levels: { brine-gate: { title: Brine Gate, players: { min: 2, max: 6 }, pool: sluice } }
builds: { breakwater: { command: node, args: ["${SERVER}", --tide-ms, "1500"] } }
pools: { sluice: { build: breakwater, ports: { from: 7700, to: 7739 }, max: 20, portRestMs: 500 } }
journal: { snapshotEvery: 2000, keepEvents: 20000 }
log: { level: info }
`;

/** A service of its own process and folder, that may be killed and started again on the same port. */
export class ServiceUnderTrial {
  readonly #graceMs: number;
  readonly #workers: number;
  readonly #more: string;
  readonly #folder = mkdtempSync(join(tmpdir(), "yellow-harbor-trial-"));
  readonly #onSignal = (["SIGINT", "SIGTERM", "SIGHUP"] as const).map(
    (signal) => [signal, () => void this.#interrupt()] as const,
  );
  #child: ChildProcess | undefined;
  #port = 0;
  #isOver = false;
  url = "";
  /** Lines of its log that tell of a fault of its own. */
  readonly complaints: string[] = [];

  /**
   * `graceMs` is how long lost players are waited for; `workers` the number of processes it runs in; `more` is added to its
   * configuration.
   */
  constructor({ graceMs = 60_000, workers = 1, more = "" } = {}) {
    this.#graceMs = graceMs;
    this.#workers = workers;
    this.#more = more;
    // Also when the trial is interrupted.
    for (const [signal, end] of this.#onSignal) process.on(signal, end);
  }

  get pid(): number {
    return this.#child?.pid ?? 0;
  }

  get isRunning(): boolean {
    return this.#child !== undefined && this.#child.exitCode === null && this.#child.signalCode === null;
  }

  /** Starts it and waits until it is ready. */
  async start(): Promise<void> {
    if (this.#isOver) throw new Error("the trial was interrupted");
    const file = join(this.#folder, "harbor.yaml");
    writeFileSync(file, config(this.#port, this.#graceMs) + this.#more);
    const args = [YH, "serve", "--config", file, "--stop-instances", "--workers", String(this.#workers)];
    const child = spawn(process.execPath, args, { stdio: ["ignore", "pipe", "inherit"], detached: true });
    this.#child = child;
    this.url = await untilReady(child, this.complaints);
    this.#port = Number(new URL(this.url).port);
  }

  /** Size of its database with what is not checkpointed yet. */
  fileBytes(): number {
    const sizeOf = (name: string) => statSync(join(this.#folder, "data", name), { throwIfNoEntry: false })?.size ?? 0;
    return sizeOf("harbor.sqlite") + sizeOf("harbor.sqlite-wal");
  }

  /** Ends it as a power cut would. */
  async kill(): Promise<void> {
    await this.#end("SIGKILL");
  }

  async #interrupt(): Promise<void> {
    if (this.#isOver) return;
    await this.dispose();
    process.exit(1);
  }

  /** Ends it in order, its instances with it, and removes its folder. */
  async dispose(): Promise<void> {
    this.#isOver = true;
    if (this.isRunning) await this.#end("SIGTERM");
    // One that was started in the very moment of a kill is known to no service: nothing of a trial outlives it.
    for (const pid of await instancesOf(this.url)) process.kill(pid, "SIGKILL");
    for (const [signal, end] of this.#onSignal) process.off(signal, end);
    rmSync(this.#folder, { recursive: true, force: true });
  }

  async #end(signal: NodeJS.Signals): Promise<void> {
    const child = this.#child;
    if (child === undefined) return;
    const ended = new Promise((resolve) => child.once("exit", resolve));
    child.kill(signal);
    await ended;
  }
}

/** Level of pino from which a line tells of a fault. */
const ERROR = 50;

function untilReady(child: ChildProcess, complaints: string[]): Promise<string> {
  return new Promise((resolve, reject) => {
    let rest = "";
    child.once("exit", (code, signal) => reject(new Error(`the service ended with ${code ?? signal}: ${rest}`)));
    child.stdout?.on("data", (chunk: Buffer) => {
      const lines = (rest + chunk).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) {
        const { level, msg, url } = JSON.parse(line) as { level: number; msg?: string; url?: string };
        if (level >= ERROR) complaints.push(line);
        if (msg === "ready" && url !== undefined) resolve(url);
      }
    });
  });
}
