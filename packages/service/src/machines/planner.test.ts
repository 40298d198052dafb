import { join } from "node:path";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Config } from "../config/schema.ts";
import { Config as ConfigSchema } from "../config/schema.ts";
import { endAll, isAlive, sayToInstance, startTestService, startVoyage, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

type PlanConfig = NonNullable<Config["pools"][string]["plan"]>;

const planned = (plan: Partial<PlanConfig>, more: Partial<Config["pools"][string]> = {}, mode?: string): Config =>
  testConfig(mode, (config) => {
    const { sluice } = config.pools;
    return ConfigSchema.parse({
      ...config,
      pools: { sluice: { ...sluice, ...more, plan: { spare: 1, cooldownMs: 300, ...plan } } },
    });
  });

const soon = { timeout: 30_000, interval: 30 };

describe("a pool that keeps instances ready, on real processes", () => {
  it("has one open before anybody asks, hands it out at once, and fills up behind", async () => {
    const service = await startTestService(planned({}));
    const { operator } = service;
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).idle === 1, soon);
    const [ready] = (await operator.instances()).instances;
    const { ansel } = await startVoyage(service);
    const pass = await ansel.nextPass();
    expect(pass.instance).toBe(ready?.id);
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).idle === 1, soon);
    const pool = await operator.explainPool("sluice");
    expect(pool).toMatchObject({ held: 1, live: 2, plan: { wanted: 2, spare: 1 } });
    expect(pool.plan?.bootS).toBeGreaterThan(0);
    expect(pool.text[0]).toContain("1 held by rooms");
  });

  it("shrinks by those that nobody holds when it is pinned lower, and leaves a match alone", async () => {
    const service = await startTestService(planned({ spare: 2 }));
    const { operator } = service;
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).idle === 2, soon);
    const { ansel, brisa } = await startVoyage(service);
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    for (const { address, pass } of [a, b]) await sayToInstance(address, pass);
    await ansel.until(({ room }) => room?.phase === "playing");
    await operator.pinPool("sluice", 0);
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).live === 1, soon);
    const { instances } = await operator.instances();
    const held = instances.find(({ id }) => id === a.instance);
    expect(held).toMatchObject({ state: "busy" });
    expect(isAlive(held?.pid ?? 0)).toBe(true);
    expect(ansel.state.room?.phase).toBe("playing");
  });

  it("waits longer after each instance that does not come up, says so, and does nothing while it is paused", async () => {
    const service = await startTestService(planned({}, {}, "crash"));
    const { operator } = service;
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).failures >= 2, soon);
    const waiting = await operator.explainPool("sluice");
    expect(waiting.text.join(" ")).toMatch(/failed before being open: nothing is launched ahead for another \d s/);
    expect((await operator.instances()).instances.length).toBeLessThanOrEqual(waiting.failures + 1);
    const paused = await operator.setPoolMode("sluice", "paused");
    expect(paused.text.join(" ")).toContain("paused");
    const unknown = await operator.explainPool("quay").catch((error: { code: string }) => error);
    expect(unknown).toMatchObject({ code: "pool-unknown" });
  });

  it("instructions nothing in the place of instances that end with the service", async () => {
    const service = await startTestService(planned({ spare: 3, cooldownMs: 0 }));
    const { operator } = service;
    await vi.waitUntil(async () => (await operator.explainPool("sluice")).idle === 3, soon);
    const journal = join(service.data, "harbor.sqlite");
    await service.stop();
    const sqlite = new Database(journal, { readonly: true });
    const launched = sqlite.prepare("SELECT count(*) FROM journal WHERE kind = 'instance.launched'").pluck().get();
    sqlite.close();
    expect(launched).toBe(3);
  });

  it("finds its instances again after a restart, and instructions no more than are missing", async () => {
    const service = await startTestService(planned({ spare: 2 }), { stopInstances: false });
    await vi.waitUntil(async () => (await service.operator.explainPool("sluice")).idle === 2, soon);
    const before = (await service.operator.instances()).instances.map(({ id }) => id).sort();
    const again = await service.restart();
    await vi.waitUntil(async () => (await again.operator.explainPool("sluice")).idle === 2, soon);
    const after = (await again.operator.instances()).instances.map(({ id }) => id).sort();
    expect(after).toEqual(before);
    await again.operator.pinPool("sluice", 0);
    await vi.waitUntil(async () => (await again.operator.explainPool("sluice")).live === 0, soon);
  });
});
