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

const PATIENT = { timeout: 30_000, interval: 100 };

describe("yh and builds", () => {
  it("adds a version and waits until it has taken over, or was taken back, with an exit code that says which", async () => {
    const config = testConfig(undefined, (one) => {
      const { sluice } = one.pools;
      const plan = { min: 1, spare: 0, cooldownMs: 100 };
      return Config.parse({ ...one, pools: { sluice: { ...sluice, plan, reuse: "any" } } });
    });
    const service = await startTestService(config);
    const url = ["--url", service.url];
    const spec = join(temporaryFolder(), "next.yaml");
    const add = (version: string, ...more: string[]) =>
      runYh(["build", "add", "plain", "--version", version, "--steps", "1", "--enough", "1", ...more, ...url]);
    const drainAll = async () => {
      const { instances } = await service.operator.instances();
      for (const { id } of instances) await service.operator.drainInstance(id);
    };
    const good = add("2", "--wait", "--timeout", "60");
    await vi.waitUntil(
      async () => (await service.operator.builds()).builds.some(({ version }) => version === "2"),
      PATIENT,
    );
    await drainAll();
    expect(await good).toMatchObject({ code: 0, out: expect.stringContaining("plain 2 is current") });
    writeFileSync(spec, "args: [-e, process.exit(7)]\n");
    const bad = add("3", "--spec", spec, "--failures", "0", "--wait", "--timeout", "60");
    await vi.waitUntil(
      async () => (await service.operator.builds()).builds.some(({ version }) => version === "3"),
      PATIENT,
    );
    await drainAll();
    expect(await bad).toMatchObject({ code: 4, out: expect.stringContaining("plain 3 is rolled-back") });
    const list = await runYh(["build", "list", ...url]);
    expect(list.out).toMatch(/plain\s+3\s+rolled-back[\s\S]*plain\s+2\s+current[\s\S]*plain\s+1\s+former/);
    expect((await runYh(["build", "roll-back", "plain", "2", "--reason", "it leaks", ...url])).out).toContain(
      "it leaks",
    );
    expect((await runYh(["build", "promote", "plain", "2", ...url])).out).toContain("plain 2 is current");
    expect(await runYh(["build", "promote", "plain", "9", ...url])).toMatchObject({ code: 3 });
    expect(await add("2")).toMatchObject({ code: 0 });
    expect(await add("2", "--spec", spec)).toMatchObject({
      code: 4,
      err: expect.stringContaining("a version of its own"),
    });
    writeFileSync(spec, "- no map\n");
    expect(await add("5", "--spec", spec)).toMatchObject({ code: 2 });
  });
});

describe("yh and pools", () => {
  it("tell how many instances should run and why, pin and pause, and try policies on what was asked for", async () => {
    const config = testConfig(undefined, (one) => {
      const { sluice } = one.pools;
      return Config.parse({ ...one, pools: { sluice: { ...sluice, plan: { spare: 1, cooldownMs: 500 } } } });
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
      code: 2,
      err: expect.stringContaining("at most 6 instances; 99 is too many"),
    });
    expect((await runYh(["pool", "pause", "sluice", ...url])).out).toContain("Its planner is paused");
    expect((await runYh(["pool", "resume", "sluice", ...url])).out).not.toContain("paused");
    expect((await runYh(["pool", "unpin", "sluice", ...url])).out).toContain("2 wanted");
    const later = ["--from", "2099-06-01T18:00:00+02:00", "--for", "120", "--min", "4", "--reason", "the regatta"];
    const warmed = await runYh(["pool", "warm", "sluice", ...later, ...url]);
    expect(warmed.out).toContain(
      "From 2099-06-01T16:00Z until 2099-06-01T18:00Z it is larger (at least 4, 0 to spare): the regatta.",
    );
    const [, time = ""] = /^(w_\w+) {2}the regatta$/m.exec(warmed.out) ?? [];
    expect((await runYh(["pool", "cool", "sluice", time, ...url])).out).not.toContain("2099");
    expect(await runYh(["pool", "warm", "sluice", "--from", "soon", "--for", "5", "--min", "1", ...url])).toMatchObject(
      {
        code: 2,
        err: expect.stringContaining("--from soon is no time"),
      },
    );
    expect(await runYh(["pool", "plan", "quay", ...url])).toMatchObject({ code: 3 });

    const { instances } = JSON.parse((await runYh(["instance", "list", "--state", "busy", "--json", ...url])).out);
    const [{ id }] = instances;
    const shown = await runYh(["instance", "show", id, ...url]);
    expect(shown.out).toMatch(
      /busy since .*\nruns {4}plain 1 of pool sluice, on here, process \d+\nat {6}127\.0\.0\.1:\d+/,
    );
    expect(shown.out).toContain("berth   Ansel reserved");
    expect((await runYh(["instance", "logs", id, "--find", "MODE good", ...url])).out).toMatch(
      /^mode good on port \d+\n$/,
    );
    expect((await runYh(["instance", "logs", id, "--find", "no such line", ...url])).out).toBe("");
    expect((await runYh(["machine", "list", ...url])).out).toMatch(/MACHINE\s+STATE[\s\S]*here\s+there\s+process/);
    expect((await runYh(["explain", "instance", id, ...url])).out).toMatch(
      /Instance i_\w+ of pool sluice runs plain 1\. It is busy: .*\nIt is on here, the one machine of its pool\.\nPlayers reach it at/,
    );
    const closing = ["machine", "cordon", "here", "--reason", "new kernel", ...url];
    expect((await runYh(closing)).out).toMatch(
      /^here is cordoned by an operator: new kernel\. \d instances? runs? there\.\n$/,
    );
    expect((await runYh(["machine", "list", ...url])).out).toMatch(/here\s+cordoned\s+process/);
    expect((await runYh(["machine", "open", "here", ...url])).out).toMatch(/^here is open: \d/);
    expect(await runYh(["machine", "drain", "hare", ...url])).toMatchObject({
      code: 3,
      err: expect.stringContaining("There is no machine hare; there are here."),
    });
    expect((await runYh(["cost", ...url])).out).toMatch(/pool\s+sluice\s+\d+\.\d[\s\S]*no price is configured/);
    expect((await runYh(["cost", "--csv", ...url])).out).toMatch(/^what,id,seconds,cost\npool,sluice,\d/);
    expect((await runYh(["instance", "drain", id, "--reason", "a new kernel", ...url])).out).toContain("goes on for 1");
    expect(await runYh(["instance", "drain", "i_000000000000", ...url])).toMatchObject({ code: 3 });

    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    expect((await runYh(["machine", "drain", "here", "--within", "60", "--wait", ...url])).out).toBe(
      "here is being drained by an operator. Nothing runs there any more.\n",
    );
    const demand = join(temporaryFolder(), "demand.jsonl");
    await vi.waitUntil(async () => (await runYh(["journal", "demand", "sluice", "--out", demand, ...url])).code === 0, {
      timeout: 30_000,
      interval: 200,
    });
    expect(JSON.parse(readFileSync(demand, "utf8").trim())).toMatchObject({ at: 0, players: 2 });

    const file = join(temporaryFolder(), "harbor.yaml");
    writeFileSync(file, TEST_CONFIG());
    const warm = join(temporaryFolder(), "warm.yaml");
    writeFileSync(warm, "plan: { min: 2 }\n");
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
    writeFileSync(warm, "plan: { min: 20 }\n");
    expect(await runYh(lab)).toMatchObject({
      code: 7,
      err: expect.stringContaining("the minimum, 20, is above the maximum, 6"),
    });
    writeFileSync(warm, "plan: { sparse: 2 }\n");
    expect(await runYh(lab)).toMatchObject({ code: 7, err: expect.stringContaining("did you mean spare?") });
    expect(await runYh([...lab.slice(0, 6), "--generate", "--demand", demand])).toMatchObject({ code: 2 });
  });
});
