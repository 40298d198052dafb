import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Config } from "../packages/service/src/config/schema.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  TEST_CONFIG,
  temporaryFolder,
  testConfig,
} from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

describe("yh and pools", () => {
  it("tell how many instances should run and why, pin and pause, and try policies on what was asked for", async () => {
    const config = testConfig(undefined, (one) => {
      const { sluice } = one.pools;
      return Config.parse({ ...one, pools: { sluice: { ...sluice, plan: { spare: 1, settleMs: 500 } } } });
    });
    const service = await startTestService(config);
    const url = ["--url", service.url];
    const { ansel, brisa } = await startVoyage(service);
    await ansel.nextPass();
    const list = await runYh(["pool", "list", ...url]);
    expect(list.out).toMatch(/POOL\s+PLANNER\s+WANTED\s+RUN\s+HELD/);
    expect(list.err).toContain("yh pool plan sluice");
    const plan = await runYh(["pool", "plan", "sluice", "--apply", ...url]);
    expect(plan.out).toMatch(/2 wanted: 1 held by rooms, 1 to spare; \d run\.[\s\S]*Done\./);
    expect((await runYh(["explain", "pool", "sluice", ...url])).out).toContain("2 wanted");
    expect((await runYh(["pool", "pin", "sluice", "3", ...url])).out).toContain("3 wanted: an operator has pinned it");
    expect(await runYh(["pool", "pin", "sluice", "99", ...url])).toMatchObject({
      ...{ code: 2, err: expect.stringContaining("6 instances at the most; 99 is too many") },
    });
    expect((await runYh(["pool", "pause", "sluice", ...url])).out).toContain("Its planner is paused");
    expect((await runYh(["pool", "resume", "sluice", ...url])).out).not.toContain("paused");
    expect((await runYh(["pool", "unpin", "sluice", ...url])).out).toContain("2 wanted");
    expect(await runYh(["pool", "plan", "quay", ...url])).toMatchObject({ code: 3 });

    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const demand = join(temporaryFolder(), "demand.jsonl");
    await vi.waitUntil(async () => (await runYh(["journal", "demand", "sluice", "--out", demand, ...url])).code === 0, {
      ...{ timeout: 10_000, interval: 200 },
    });
    expect(JSON.parse(readFileSync(demand, "utf8").trim())).toMatchObject({ at: 0, players: 2 });

    const file = join(temporaryFolder(), "harbor.yaml");
    writeFileSync(file, TEST_CONFIG());
    const warm = join(temporaryFolder(), "warm.yaml");
    writeFileSync(warm, "plan: { least: 2 }\n");
    const lab = ["lab", "pool", "--config", file, "--pool", "sluice", "--demand", demand, "--policy", warm];
    const report = join(temporaryFolder(), "pool.html");
    const ran = await runYh([...lab, "--report", report, "--json"]);
    expect(JSON.parse(ran.out)).toMatchObject({
      policies: [
        { name: "as configured", waited: { rooms: 1 } },
        { name: "warm", rooms: 1 },
      ],
    });
    expect(readFileSync(report, "utf8")).toContain("as configured: 100 % of the rooms wait");
    writeFileSync(warm, "plan: { least: 20 }\n");
    expect(await runYh(lab)).toMatchObject({
      code: 7,
      err: expect.stringContaining("the least, 20, is above the most, 6"),
    });
    writeFileSync(warm, "plan: { sparse: 2 }\n");
    expect(await runYh(lab)).toMatchObject({ code: 7, err: expect.stringContaining("did you mean spare?") });
    expect(await runYh([...lab.slice(0, 6), "--generate", "--demand", demand])).toMatchObject({ code: 2 });
  });
});
