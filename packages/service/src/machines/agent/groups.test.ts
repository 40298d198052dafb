import { existsSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { type HarborView, Plan } from "@yellow-harbor/protocol";
import pino from "pino";
import { afterEach, describe, expect, it, vi } from "vitest";
import { readGroupToken } from "../../serve.ts";
import { endAgents, farAway, startAgent, stops } from "../../testing/agents.ts";
import {
  sayToInstance,
  startTestService,
  startVoyage,
  temporaryFolder,
  untilState,
} from "../../testing/test-service.ts";
import { runAgent } from "./agent.ts";

afterEach(endAgents);

describe("a machine that is new in the configuration", () => {
  it("takes its agent and runs instances without a restart of the service", async () => {
    const config = farAway();
    const { sluice } = config.pools;
    const { far } = config.machines;
    if (sluice === undefined || far === undefined) throw new Error("no pool, or no machine");
    const next = {
      ...config,
      machines: { ...config.machines, late: { ...far, host: "127.0.0.5" } },
      pools: { sluice: { ...sluice, machines: ["late"] } },
    };
    const service = await startTestService(config, { reload: () => ({ ok: true, config: next, file: "harbor.yaml" }) });
    await expect(startAgent(service, undefined, undefined, "late")).rejects.toThrow(
      "No machine late waits for an agent",
    );
    const { changes } = await service.operator.applyConfig();
    expect(changes.map(({ path, takes }) => `${path} ${takes}`)).toContain("machines.late at-once");
    await startAgent(service, undefined, undefined, "late");
    const { ansel } = await startVoyage(service);
    expect((await ansel.nextPass()).address.host).toBe("127.0.0.5");
  });
});

describe("a fleet", () => {
  it("orders machines by the user's own command when plans need them, and gives them back when nothing does", async () => {
    const config = farAway();
    const { sluice } = config.pools;
    if (sluice === undefined) throw new Error("no pool");
    const folder = temporaryFolder();
    const asked = join(folder, "asked");
    // What a cloud's own program would be: it notes what it was asked for, and fails when its quota is used up.
    const script = join(folder, "cloud.sh");
    writeFileSync(
      script,
      `#!/bin/sh\n[ -e ${folder}/full ] && echo "quota exceeded" >&2 && exit 1\necho "$1 $YH_MACHINE_NAME $YH_MACHINE_GROUP $YH_MACHINE_REGION $YH_AGENT_TOKEN $YH_URL" >> ${asked}\n`,
      { mode: 0o755 },
    );
    const lines = () =>
      existsSync(asked)
        ? readFileSync(asked, "utf8")
            .trim()
            .split("\n")
            .map((line) => line.split(" "))
        : [];
    const shared = { cpus: null, memoryMb: null, preemptible: false, pricePerSecond: null };
    const fleet = {
      start: [script, "start"],
      stop: [script, "stop"],
      min: 0,
      ordersAtOnce: 3,
      bootMs: 30_000,
      idleMs: 1_000,
    };
    const cloud = { ...shared, region: "far-light", max: 2, limit: 3, forgetMs: 1_000, fleet };
    const plan = Plan.parse({ min: 1, spare: 1, cooldownMs: 0, reclaimMs: 0 });
    writeFileSync(join(folder, "full"), "");
    const service = await startTestService({
      ...config,
      machineGroups: { cloud },
      pools: { sluice: { ...sluice, machines: ["cloud"], plan, reuse: "any" } },
    });
    const failures = async () => (await service.operator.journal({ kind: "fleet.failed", limit: 5 })).events;
    await vi.waitUntil(async () => (await failures()).length > 0, { timeout: 30_000 });
    expect((await failures())[0]?.event.why).toMatch(/cloud\.sh: quota exceeded$/);
    rmSync(join(folder, "full"));
    await vi.waitUntil(() => lines().length > 0, { timeout: 30_000, interval: 100 });
    const [word, name = "", group, region, token = "", url = ""] = lines()[0] ?? [];
    expect([word, group, region, url]).toEqual(["start", "cloud", "far-light", service.url]);
    const abort = new AbortController();
    const running = runAgent({
      ...{ url, token, name, host: "127.0.0.6", workingFolder: folder, dataFolder: folder },
      signal: abort.signal,
      output: { keepBytes: 1_000_000, keepMs: 60_000 },
      log: pino({ level: "silent" }),
    });
    stops.push(async () => {
      abort.abort();
      await running.catch(() => undefined);
    });
    const isOpen = (state: HarborView) => Object.values(state.instances).some((one) => one.state === "open");
    const { instances } = await untilState(service.operator, isOpen, 40_000);
    expect(Object.values(instances)[0]).toMatchObject({ machine: `cloud-${name}`, address: { host: "127.0.0.6" } });
    await service.operator.pinPool("sluice", 0);
    await vi.waitUntil(() => lines().some(([said, which]) => said === "stop" && which === name), {
      timeout: 30_000,
      interval: 100,
    });
    abort.abort();
    await vi.waitUntil(
      async () => (await service.operator.machines()).machines.every(({ group: of }) => of !== "cloud"),
      {
        timeout: 30_000,
      },
    );
  });
});

describe("a machine that joins a group", () => {
  it("comes with the group's token once, then with its own, and runs instances at its own host", async () => {
    const config = farAway();
    const { sluice } = config.pools;
    if (sluice === undefined) throw new Error("no pool");
    const shared = { cpus: null, memoryMb: null, preemptible: true, pricePerSecond: null };
    const spot = { ...shared, region: "far-light", max: 4, limit: 3, forgetMs: 60_000, fleet: null };
    const service = await startTestService({
      ...config,
      machineGroups: { spot },
      pools: {
        sluice: { ...sluice, machines: ["spot"], ports: { from: sluice.ports.from, to: sluice.ports.from + 5 } },
      },
    });
    const folder = temporaryFolder();
    const token = await readGroupToken(service.data, "test-harbor", "spot", 1);
    const joined = (name: string, data: string, shown = token) => {
      const abort = new AbortController();
      const running = runAgent({
        ...{ url: service.url, token: shown, name, host: "127.0.0.4", workingFolder: data, dataFolder: data },
        signal: abort.signal,
        output: { keepBytes: 1_000_000, keepMs: 60_000 },
        log: pino({ level: "silent" }),
      });
      const stop = async () => {
        abort.abort();
        await running.catch(() => undefined);
      };
      stops.push(stop);
      return { running, stop };
    };
    const first = joined("east-1", folder);
    const isThere = async (wanted: boolean) => {
      const { machines } = await service.operator.machines();
      return machines.some(({ id, isThere: there }) => id === "spot-east-1" && there === wanted);
    };
    await vi.waitUntil(() => isThere(true), { timeout: 30_000 });
    const { machines } = await service.operator.machines();
    expect(machines.find(({ id }) => id === "spot-east-1")).toMatchObject({
      ...{ group: "spot", host: "127.0.0.4", region: "far-light", preemptible: true },
    });
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(a.address.host).toBe("127.0.0.4");
    await sayToInstance(a.address, a.pass);
    await sayToInstance(b.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");
    // Its name is its own: who has the group's token alone does not get it.
    await expect(joined("east-1", temporaryFolder()).running).rejects.toThrow("has joined before");
    await expect(joined("East 1!", temporaryFolder()).running).rejects.toThrow("lower-case letters");
    await first.stop();
    await vi.waitUntil(() => isThere(false), { timeout: 30_000 });
    const again = joined("east-1", folder, "no token of ours");
    await vi.waitUntil(() => isThere(true), { timeout: 30_000 });
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    await vi.waitUntil(async () => (await service.operator.instances({ ended: true })).instances.length > 0, {
      timeout: 30_000,
    });
    await again.stop();
    await vi.waitUntil(() => isThere(false), { timeout: 30_000 });
    expect((await service.operator.removeMachine("spot-east-1")).machines.map(({ id }) => id)).not.toContain(
      "spot-east-1",
    );
    // What was forgotten joins anew, by itself.
    joined("east-1", folder);
    await vi.waitUntil(() => isThere(true), { timeout: 30_000 });
  });
});
