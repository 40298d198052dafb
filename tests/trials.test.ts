import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { ROOT } from "./imports.ts";
import { runNode } from "./run-yh.ts";

/** Short forms of `npm run sim`, `crash`, `soak` and `fuzz`; the long ones are for longer hours. */
describe("the trials", () => {
  it("simulate the core under a seed, and say how many steps that were in a second", async () => {
    const ran = await runNode([join(ROOT, "trials/dist/sim.js"), "--seed", "5", "--steps", "2000", "--json"]);
    const report = JSON.parse(ran.out);
    expect(report, ran.err).toMatchObject({ ok: true, seed: 5, steps: 2_000 });
    expect(report.perSecond).toBeGreaterThan(0);
    expect(report.digest).toMatch(/^[0-9a-f]{16}$/);
  });

  it("kill the service at random moments: nothing acknowledged is lost, nothing shown is not there", async () => {
    const args = [join(ROOT, "trials/dist/crash.js"), "--rounds", "2", "--crews", "2", "--json"];
    const ran = await runNode(args);
    const report = JSON.parse(ran.out);
    expect(report, ran.err).toMatchObject({
      ok: true,
      rounds: 2,
      lost: 0,
      unannounced: 0,
      instancesLost: 0,
      searchesLost: 0,
      faults: [],
    });
    // How many fit between two kills is up to how busy the machine is.
    expect(report.acknowledged).toBeGreaterThan(20);
    expect(report.resumed).toBeGreaterThanOrEqual(2 * 4);
  });

  // Where a machine becomes less busy in the middle of it, more players come: once more tells that from growth, which stays.
  it("let players come and go: nothing of the service grows", { retry: 1 }, async () => {
    const ran = await runNode([join(ROOT, "trials/dist/soak.js"), "--minutes", "0.25", "--json"]);
    const report = JSON.parse(ran.out);
    expect(report.growth.filter(({ grows }: { grows: boolean }) => grows)).toEqual([]);
    // How late the loop is says how busy the machine is with other tests; `npm run soak` holds it to a bound.
    expect(report.faults).toEqual([]);
    expect(report.growth.map(({ name }: { name: string }) => name)).toContain("handles");
    expect(report.visits).toBeGreaterThan(20);
    expect(ran.err).not.toContain("MaxListeners");
  });

  it("send what nobody meant: no crash, no 5xx, no hang, nothing in the error log", async () => {
    const ran = await runNode([join(ROOT, "trials/dist/fuzz.js"), "--inputs", "600", "--json"]);
    const report = JSON.parse(ran.out);
    expect(report, `seed ${report.seed}`).toMatchObject({ ok: true, inputs: 600, faults: {} });
    expect(Object.keys(report.statuses)).toEqual(expect.arrayContaining(["200", "404", "422"]));
  });
});
