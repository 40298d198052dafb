import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import { appendFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { PlayerClient } from "@yellow-harbor/client";
import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { ROOT } from "./imports.ts";
import { runNode, runYh } from "./run-yh.ts";
import { SMALL_CONFIG } from "./small-config.ts";

const YH = join(ROOT, "packages/cli/bin/yh.js");

let folder: string;
let file: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "yellow-harbor-config-"));
  file = join(folder, "harbor.yaml");
  writeFileSync(file, SMALL_CONFIG);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("yh config", () => {
  it("shows where each value is from: flag, environment, file, default", async () => {
    const run = (env: Record<string, string>, ...args: string[]) => runNode([YH, "config", ...args], { env });
    const env = { YH_PLAYERS_LIMIT: "77", YH_JOURNAL_KEEP_EVENTS: "5000" };
    const args = ["show", file, "--origin", "--set", "journal.keepEvents=6000", "--json"];
    const { values } = JSON.parse((await run(env, ...args)).out);
    const of = (path: string) => values.find((one: { path: string }) => one.path === path);
    expect(of("players.limit")).toEqual({ path: "players.limit", value: 77, origin: "YH_PLAYERS_LIMIT" });
    expect(of("journal.keepEvents")).toMatchObject({ value: 6_000, origin: "--set journal.keepEvents" });
    expect(of("levels.brine-gate.title")).toMatchObject({ value: "Brine Gate", origin: "harbor.yaml:6" });
    expect(of("players.graceMs")).toMatchObject({ value: 30_000, origin: "default" });
    // The built yh, as users have it: what it prints without --origin can be a file again.
    const shown = await run(env, "show", file);
    expect(shown).toMatchObject({ code: 0, out: expect.stringMatching(/^ {2}limit: 77$/m), err: "" });
    expect(await run({ YH_PLAYERS_LIMIT: "many" }, "check", file)).toMatchObject({
      code: 7,
      out: expect.stringContaining("YH_PLAYERS_LIMIT  players.limit  expected a number"),
    });
    expect(await run({ YH_PLAYER_LIMIT: "7" }, "check", file)).toMatchObject({
      code: 7,
      err: expect.stringContaining("did you mean YH_PLAYERS_LIMIT?"),
    });
  });

  it("says what one file changes in another, without a service", async () => {
    const other = join(folder, "other.yaml");
    writeFileSync(other, SMALL_CONFIG.replace("Brine Gate", "Brine Sluice").replace("port: 0", "port: 7421"));
    const { code, out } = await runYh(["config", "diff", file, other]);
    expect(code).toBe(0);
    expect(out).toMatch(/^Can be taken now\n {2}levels\.brine-gate\.title {2}"Brine Gate" -> "Brine Sluice"$/m);
    expect(out).toMatch(/^Needs a restart\n {2}listen\.port {2}0 -> 7421$/m);
  });
});

describe("a service whose configuration is changed while it runs", () => {
  let service: ChildProcess;
  let url: string;
  let log = "";
  beforeAll(async () => {
    writeFileSync(file, SMALL_CONFIG);
    const args = [YH, "serve", "--config", file, "--set", "lobbies.quayside.namesUpTo=5"];
    service = spawn(process.execPath, args, { stdio: ["ignore", "pipe", "inherit"] });
    service.stdout?.on("data", (chunk) => (log += chunk));
    await vi.waitUntil(() => log.includes('"msg":"ready"'), { timeout: 30_000 });
    url = /"url":"([^"]+)"/.exec(log)?.[1] ?? "";
  });
  afterAll(async () => {
    const ended = once(service, "exit");
    service.kill("SIGTERM");
    await ended;
  });

  const key = () => readFileSync(join(folder, "data/operator.key"), "utf8").trim();
  const yh = (...args: string[]) => runYh([...args, "--url", url, "--token", key()]);
  const lines = () =>
    log
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line) as Record<string, unknown>);
  const said = (msg: string) =>
    vi.waitUntil(() => lines().findLast((line) => line["msg"] === msg), { timeout: 30_000 });

  it("takes what it can by `yh config apply`, says what needs a restart, and loses nobody", async () => {
    expect((await yh("config", "diff")).out).toContain("has what holds now");
    const ansel = await PlayerClient.connect({ url, name: "Ansel", build: "game-1", strict: true });
    await ansel.openRoom({ capacity: 2 });
    const refusedEarlier = PlayerClient.connect({ url, name: "Brisa", build: "game-2", reconnect: false });
    await expect(refusedEarlier).rejects.toMatchObject({ problem: { code: "build-unsupported" } });
    writeFileSync(file, SMALL_CONFIG.replace("[game-1]", "[game-1, game-2]"));
    appendFileSync(file, "journal: { snapshotEvery: 400 }\nlog: { areas: { operators: debug } }\n");
    expect((await yh("config", "diff")).out).toMatch(/Needs a restart\n {2}journal\.snapshotEvery {2}50000 -> 400/);
    const { out } = await yh("config", "apply");
    expect(out).toMatch(/^Holds from now on\n {2}players\.builds/m);
    expect(out).toMatch(/^Not taken: needs a restart\n {2}journal\.snapshotEvery/m);
    const brisa = await PlayerClient.connect({ url, name: "Brisa", build: "game-2", strict: true });
    await brisa.openRoom({ capacity: 2 });
    expect(ansel.state.room?.phase).toBe("gathering");
    expect((await yh("status")).out).toContain("accepts game-1, game-2");
    expect((await yh("config", "show", "--running")).out).toMatch(/namesUpTo: 5/);
    expect((await yh("journal", "--kind", "harbor.rules-changed")).out).toContain("players.builds");
    ansel.drop();
    brisa.drop();
  });

  it("takes it by SIGHUP as well, with a line in the log and the audit log", async () => {
    writeFileSync(file, SMALL_CONFIG.replace("title: Quayside", "title: Long Quay"));
    service.kill("SIGHUP");
    expect(await said("the configuration was read again")).toMatchObject({
      changed: expect.arrayContaining(["lobbies.quayside.title"]),
    });
    expect((await yh("status")).out).toContain("Long Quay");
    const { entries } = JSON.parse((await yh("audit", "--json")).out);
    expect(entries.some((one: object) => "from" in one && one.from === "signal")).toBe(true);
  });

  it("changes nothing when there is a fault, and names it with its place", async () => {
    writeFileSync(
      file,
      SMALL_CONFIG.replace("title: Quayside", "title: Pier").replace("max: 4 }, levels", "max: 400 }, levels"),
    );
    service.kill("SIGHUP");
    const refused = await said("the configuration was not taken");
    expect(refused["detail"]).toMatch(/harbor\.yaml:5:\d+ roomKinds\.crews\.capacity\.max /);
    const { code, err } = await yh("config", "apply");
    expect({ code, err }).toEqual({ code: 7, err: expect.stringContaining("Nothing was changed") });
    expect((await yh("status")).out).toContain("Long Quay");
  });
});
