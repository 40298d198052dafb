import { existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { OperatorClient, PlayerClient, type PlayerOptions } from "@yellow-harbor/client";
import type { HarborView, WatchMessage } from "@yellow-harbor/protocol";
import pino from "pino";
import { parseConfig } from "../config/load.ts";
import { RISKS } from "../config/risks.ts";
import type { Config } from "../config/schema.ts";
import { serve } from "../serve.ts";
import type { RunningService, ServeOptions } from "../start.ts";
import { TEST_PORTS, testPorts } from "./test-ports.ts";

const INSTANCE = fileURLToPath(new URL("./plain-instance.mjs", import.meta.url));

/** An instance as it should be gets the time that a busy computer takes; one that never does what it should, little. */
const BOOT_MS: Readonly<Record<string, number>> = { mute: 2_000, closed: 6_000 };
const STOP_MS: Readonly<Record<string, number>> = { deaf: 300 };

export function TEST_CONFIG(mode = "good"): string {
  const portsFrom = testPorts();
  return `
harbor: test-harbor
players: { builds: [game-1], graceMs: 3000, framesPerSecond: 1000 }
lobbies:
  quayside: { title: Quayside, roomKinds: [crews] }
roomKinds:
  crews: { capacity: { min: 1, max: 6, default: 4 }, levels: [brine-gate], graceMs: 5000 }
levels:
  brine-gate: { title: Brine Gate, players: { min: 1, max: 6 }, pool: sluice }
builds:
  plain: { command: node, args: ["${INSTANCE}", ${mode}, "{port}"] }
pools:
  sluice:
    { build: plain, ports: { from: ${portsFrom}, to: ${portsFrom + TEST_PORTS - 1} }, max: 6, bootMs: ${BOOT_MS[mode] ?? 20_000}, stopMs: ${STOP_MS[mode] ?? 10_000}, portRestMs: 0, silenceMs: 8000 }
travel: { prepareMs: 30000, boardMs: 60000, attempts: 2 }
listen: { port: 0 }
operators: { access: open }
log: { level: silent }
`;
}

export function testConfig(mode?: string, change: (config: Config) => Config = (config) => config): Config {
  const parsed = parseConfig(TEST_CONFIG(mode));
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
  return change(parsed.config);
}

export interface TestService extends RunningService {
  readonly data: string;
  readonly operator: OperatorClient;
  readonly player: (name: string, more?: Partial<PlayerOptions>) => Promise<PlayerClient>;
  /** Stops the service and starts it again on the same data folder and port. */
  readonly restart: (more?: Partial<ServeOptions>) => Promise<TestService>;
}

const cleanUps: (() => Promise<void>)[] = [];

/** Ends all that was started. Call it after each test. */
export async function endAll(): Promise<void> {
  for (const end of cleanUps.splice(0).reverse()) await end();
}

/** A real service on a free port, with a data folder of its own. */
export async function startTestService(
  config: Config = testConfig(),
  { data = temporaryFolder(), ...options }: Partial<ServeOptions> & { data?: string } = {},
): Promise<TestService> {
  const log = pino({ level: process.env.TEST_LOG ?? "silent" });
  const running = await serve({
    config: { ...config, data },
    folder: data,
    stopInstances: true,
    acceptRisks: RISKS,
    // TEST_WORKERS=2 tries all tests with the players' sockets in a process of their own.
    workers: Number(process.env.TEST_WORKERS ?? 1),
    log,
    ...options,
  });
  let isStopped = false;
  const stop = async () => {
    if (isStopped) return;
    isStopped = true;
    await running.stop();
  };
  cleanUps.push(stop);
  return {
    ...running,
    stop,
    data,
    operator: new OperatorClient({ url: running.url }),
    player: async (name, more = {}) => {
      const player = await PlayerClient.connect({
        url: running.url,
        name,
        build: "game-1",
        strict: true,
        reconnect: { firstMs: 50 },
        ...more,
      });
      cleanUps.push(async () => player.drop());
      return player;
    },
    restart: async (more = {}) => {
      await stop();
      const again = { ...config, listen: { ...config.listen, port: running.port } };
      return startTestService(again, { data, ...options, ...more });
    },
  };
}

export function temporaryFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-test-"));
  cleanUps.unshift(async () => rmSync(folder, { recursive: true, force: true }));
  return folder;
}

/** Two players in one room, everything ready, started. */
export async function startVoyage(service: TestService, capacity = 2) {
  const ansel = await service.player("Ansel");
  const brisa = await service.player("Brisa");
  const { room } = await ansel.openRoom({ capacity });
  await brisa.joinRoom({ room: room.id });
  await ansel.pickLevel("brine-gate");
  await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
  await ansel.start();
  return { ansel, brisa, room };
}

/** Sends a line to an instance and resolves with its answer. */
export function sayToInstance(
  { host, port }: { host: string; port: number },
  line: string,
): Promise<{ status: number; body: Record<string, unknown> }> {
  return new Promise((resolve, reject) => {
    const socket = connect(port, host, () => socket.write(`${line}\n`));
    let text = "";
    socket.setEncoding("utf8");
    socket.on("error", reject);
    socket.on("data", (chunk) => {
      text += chunk;
      if (!text.endsWith("\n")) return;
      socket.destroy();
      resolve(JSON.parse(text));
    });
  });
}

/** Follows the service's stream until the state fits. */
export async function untilState(
  operator: OperatorClient,
  fits: (state: HarborView) => boolean,
  withinMs = 30_000,
): Promise<HarborView> {
  const { mergePatch } = await import("@yellow-harbor/client");
  let state: HarborView | undefined;
  for await (const message of operator.watch(AbortSignal.timeout(withinMs)) as AsyncIterable<WatchMessage>) {
    state = message.message === "state" ? message.state : mergePatch(state as HarborView, message.patch);
    if (fits(state)) return state;
  }
  throw new Error("the stream ended before the state fitted");
}

/** Whether a process runs: one that has ended, and that its parent (it may be this process) has yet to collect, does not. */
export const isAlive = (pid: number): boolean => {
  try {
    process.kill(pid, 0);
  } catch {
    return false;
  }
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, "utf8");
    return !stat.slice(stat.lastIndexOf(")")).startsWith(") Z");
  } catch {
    // It has gone meanwhile, or the system has no such files.
    return !existsSync("/proc/self/stat");
  }
};
