import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pino from "pino";
import type { Config } from "../config/schema.ts";
import { runAgent } from "../machines/agent/agent.ts";
import { readAgentToken } from "../serve.ts";
import { endAll, type TestService, testConfig } from "./test-service.ts";

/** What is ended after each test. */
export const stops: (() => Promise<void> | void)[] = [];

/** Ends what was started for a test. */
export async function endAgents(): Promise<void> {
  for (const stop of stops.splice(0).reverse()) await stop();
  await endAll();
}

/** A pool whose instances run on a machine with another address of this computer. */
export const farAway = (host = "127.0.0.2"): Config =>
  testConfig(undefined, (config) => {
    const { sluice } = config.pools;
    if (!sluice) throw new Error("no pool");
    const far = {
      driver: "agent",
      host,
      max: 10,
      region: "far-light",
      cpus: null,
      memoryMb: null,
      preemptible: false,
      cgroups: "auto",
      pricePerSecond: null,
    } as const;
    return {
      ...config,
      machines: { ...config.machines, far },
      pools: { sluice: { ...sluice, machines: ["far"], silenceMs: 10_000 } },
    };
  });

export interface Agent {
  readonly data: string;
  readonly stop: () => Promise<void>;
}

export async function startAgent(
  service: TestService,
  data?: string,
  token?: string,
  machine = "far",
  more: { readonly notice?: string } = {},
): Promise<Agent> {
  const folder = data ?? mkdtempSync(join(tmpdir(), "yellow-harbor-agent-"));
  if (data === undefined) stops.push(() => rmSync(folder, { recursive: true, force: true }));
  const abort = new AbortController();
  let running: Promise<void> = Promise.resolve();
  const shown = token ?? (await readAgentToken(service.data, "test-harbor", machine, 1));
  await new Promise<void>((resolve, reject) => {
    running = runAgent({
      url: service.url,
      token: shown,
      workingFolder: folder,
      dataFolder: folder,
      signal: abort.signal,
      output: { keepBytes: 1_000_000, keepMs: 60_000 },
      log: pino({ level: "silent" }),
      ...more,
      joined: resolve,
    });
    running.catch(reject);
  });
  const stop = async () => {
    abort.abort();
    await running.catch(() => undefined);
  };
  stops.push(stop);
  return { data: folder, stop };
}
