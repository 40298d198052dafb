import { createHash } from "node:crypto";
import { mkdirSync, readFileSync, realpathSync } from "node:fs";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import type { BuildSpecInput, InstanceView } from "@yellow-harbor/protocol";
import { BuildSpec } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import type { Config } from "../config/schema.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  type TestService,
  temporaryFolder,
  testConfig,
  untilState,
} from "../testing/test-service.ts";

const PLACED = fileURLToPath(new URL("../testing/placed-instance.mjs", import.meta.url));

afterEach(endAll);

const withBuild = (spec: BuildSpecInput, change: Partial<Config["pools"][string]> = {}): Config =>
  testConfig(undefined, (config) => {
    const { sluice } = config.pools;
    if (!sluice) throw new Error("no pool");
    return { ...config, builds: { plain: BuildSpec.parse(spec) }, pools: { sluice: { ...sluice, ...change } } };
  });

async function firstInstance(service: TestService, fits: (one: InstanceView) => boolean): Promise<InstanceView> {
  const { instances } = await untilState(service.operator, (state) => Object.values(state.instances).some(fits));
  const found = Object.values(instances).find(fits);
  if (!found) throw new Error("no instance");
  return found;
}

async function printedBy(service: TestService, id: string): Promise<string> {
  let text = "";
  for await (const chunk of service.operator.output(id)) text += chunk;
  return text;
}

describe("a build", () => {
  it("is started with its placeholders filled in, in its folder, with ports of its own for each purpose", async () => {
    const data = temporaryFolder();
    mkdirSync(join(data, "work"));
    mkdirSync(join(data, "stones"));
    const args = [
      PLACED,
      "good",
      "{port}",
      "{port.query}",
      "{level}",
      "{assets}",
      "{data}",
      "{service}",
      "{instance}",
      "{unknown",
    ];
    const spec = {
      command: "node",
      args,
      folder: "work",
      assets: "stones",
      ports: ["query"],
      environment: { GREETING: "from the build", LEVEL: "level {level}" },
    };
    const service = await startTestService(withBuild(spec, { environment: { GREETING: "from the pool" } }), { data });
    const { ansel } = await startVoyage(service);
    const one = await firstInstance(service, ({ state }) => state === "busy");
    const { query } = one.ports ?? {};
    expect(query).not.toBe(one.address.port);
    const told = JSON.parse((await printedBy(service, one.id)).split("\n")[0] ?? "");
    const home = realpathSync(data);
    expect(told).toEqual({
      args: [
        ...[String(one.address.port), String(query), "brine-gate", join(data, "stones")],
        ...[join(data, "instances", one.id, "data"), service.url, one.id, "{unknown"],
      ],
      cwd: join(home, "work"),
      greeting: "from the pool",
      level: "level brine-gate",
    });
    await ansel.leave();
  });

  it("is not started when its file is not the one that was meant", async () => {
    const data = temporaryFolder();
    const checksum = `sha256:${createHash("sha256").update("something else").digest("hex")}`;
    // A hundred megabytes are read for each of the attempts.
    const config = withBuild({ command: process.execPath, args: [PLACED, "good"], checksum }, { bootMs: 30_000 });
    const service = await startTestService(config, { data });
    const { ansel } = await startVoyage(service);
    const { room } = await ansel.until((state) => state.room?.setback !== undefined);
    expect(room?.setback?.detail).toContain(`not ${checksum}`);
    const right = `sha256:${createHash("sha256").update(readFileSync(process.execPath)).digest("hex")}`;
    expect(room?.setback?.detail).toContain(right);
  });

  it("that takes more memory than it may is killed, with the numbers", async () => {
    const service = await startTestService(
      withBuild({ command: "node", args: [PLACED, "grow"], limits: { memoryMb: 160, niceness: 5, openFiles: 256 } }),
    );
    await startVoyage(service);
    const one = await firstInstance(service, ({ state, exit }) => state === "failed" && exit !== undefined);
    expect(one.why).toMatch(/^killed: used \d+ MiB of memory, more than the 160 it may; ended by SIGKILL$/);
  });
});

describe("a new version on real processes", () => {
  const spec = (version: string, mode: string): BuildSpecInput => ({ version, command: "node", args: [PLACED, mode] });
  const keepsReady = {
    plan: {
      min: 2,
      spare: 0,
      spareShare: 0,
      cooldownMs: 100,
      reclaimMs: 0,
      giveUpAfter: 6,
      spareIn: {},
      schedule: [],
      costPerHour: null,
    },
    reuse: "any" as const,
  };

  it("takes over once enough of it has come up, and the others stop", async () => {
    const service = await startTestService(withBuild(spec("1", "good"), keepsReady));
    await firstInstance(service, ({ state, version }) => state === "open" && version === "1");
    const added = await service.operator.addBuild("plain", spec("2", "good"), { steps: [1], enough: 1 });
    expect(added).toMatchObject({ state: "canary", share: 1 });
    // One is retired, so that another is launched, which is the new version.
    const { instances } = await service.operator.instances();
    await service.operator.drainInstance(instances[0]?.id ?? "", "make room");
    await untilState(service.operator, (state) => {
      const live = Object.values(state.instances).filter(({ exit }) => exit === undefined);
      return live.length === 2 && live.every(({ state, version }) => state === "open" && version === "2");
    });
    const { builds } = await service.operator.builds();
    expect(builds.map(({ version, state }) => `${version} ${state}`)).toEqual(["2 current", "1 former"]);
  });

  it("that does not come up is taken back by itself, and what ran before goes on being started", async () => {
    const service = await startTestService(withBuild(spec("1", "good"), keepsReady));
    await untilState(service.operator, (state) => {
      const all = Object.values(state.instances);
      return all.length === 2 && all.every(({ state }) => state === "open");
    });
    await service.operator.addBuild("plain", spec("2", "broken"), { steps: [0.5, 1], enough: 2, maxFailures: 0 });
    const { instances } = await service.operator.instances();
    await service.operator.drainInstance(instances[0]?.id ?? "");
    const failed = await firstInstance(service, ({ version, exit }) => version === "2" && exit !== undefined);
    expect(failed).toMatchObject({ state: "failed", exit: { code: 7 } });
    const { builds } = await service.operator.builds();
    expect(builds).toMatchObject([
      { version: "2", state: "rolled-back", why: expect.stringContaining("1 of 1 failed at 50 %") },
      { version: "1", state: "current" },
    ]);
    await untilState(service.operator, (state) => {
      const live = Object.values(state.instances).filter(({ state }) => state === "open");
      return live.length === 2 && live.every(({ version }) => version === "1");
    });
  });

  it("is refused when it could never run: by itself, or on this computer", async () => {
    const service = await startTestService(withBuild(spec("1", "good")));
    const refusal = (change: Partial<BuildSpecInput>) =>
      service.operator.addBuild("plain", { ...spec("2", "good"), ...change }).then(
        () => undefined,
        (error: { code: string; message: string }) => `${error.code}: ${error.message}`,
      );
    expect(await refusal({ args: ["{prot}"] })).toContain("there is no placeholder {prot}; did you mean {port}?");
    expect(await refusal({ command: "./no-such-server" })).toContain("is not there");
    expect(await refusal({ folder: "no-such-folder" })).toContain("no-such-folder is no folder");
    expect(await refusal({ args: ["{assets}"] })).toContain("the build names none");
    expect(await refusal({ ready: "port" })).toMatch(/^request-invalid/);
    expect(await refusal({ watch: { joined: "joined (.*)" } })).toMatch(/^request-invalid/);
  });
});

describe("what instances cost", () => {
  it("is told by pool, build, machine and room", async () => {
    const service = await startTestService(
      withBuild({ command: "node", args: [PLACED, "good"] }, { pricePerSecond: 2 }),
    );
    const { room } = await startVoyage(service);
    await firstInstance(service, ({ state }) => state === "busy");
    const costs = await service.operator.costs();
    expect(costs.pools[0]?.id).toBe("sluice");
    expect(costs.builds[0]?.id).toBe("plain 1");
    expect(costs.rooms[0]?.id).toBe(room.id);
    for (const { seconds, cost } of [...costs.pools, ...costs.builds]) expect(cost).toBeCloseTo(seconds * 2, 5);
  });
});
