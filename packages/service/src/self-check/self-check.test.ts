import { chmodSync, mkdirSync, readdirSync, writeFileSync } from "node:fs";
import type { AddressInfo } from "node:net";
import { createServer } from "node:net";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { makeCertificate } from "../testing/test-certificate.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";
import { selfCheck } from "./self-check.ts";

afterEach(endAll);

const DAY_MS = 86_400_000;

async function looked(change: (config: Config) => object, more: { nowMs?: number; isRunning?: boolean } = {}) {
  const folder = temporaryFolder();
  const config = testConfig("good", (one) => Config.parse({ ...one, data: join(folder, "data"), ...change(one) }));
  return selfCheck({ config, folder, isRunning: false, ...more });
}

const of = (findings: Awaited<ReturnType<typeof looked>>, check: string) =>
  findings.filter((one) => one.check === check);

describe("a look at what a service stands on", () => {
  it("finds nothing wrong with a service that runs, and leaves nothing behind", async () => {
    const { data, port } = await startTestService();
    const findings = await looked(({ listen }) => ({ data, listen: { ...listen, port } }), { isRunning: true });
    // Tests run as root, whose instances would be root too.
    expect(findings.filter(({ state, check }) => state === "bad" && check !== "risks")).toEqual([]);
    expect(of(findings, "journal")).toMatchObject([
      { state: "ok", text: expect.stringMatching(/events?, schema \d+/) },
    ]);
    expect(of(findings, "flush")).toMatchObject([{ text: expect.stringMatching(/a flush takes \d+\.\d\d ms/) }]);
    expect(readdirSync(data).filter((name) => name.startsWith("flush-"))).toEqual([]);
  });

  it("sees a data folder that others can read, or that cannot be made, and what is newer or later than it may be", async () => {
    const { data, stop } = await startTestService();
    await stop();
    chmodSync(data, 0o755);
    const nowMs = Date.now() - 3_600_000;
    const open = await looked(() => ({ data }), { nowMs });
    expect(of(open, "data folder")).toMatchObject([{ state: "look", remedy: `chmod 700 ${data}` }]);
    expect(of(open, "clock")).toMatchObject([{ state: "look", text: expect.stringMatching(/36\d\d s behind/) }]);
    const sqlite = new Database(join(data, "harbor.sqlite"));
    sqlite.pragma("user_version = 999");
    sqlite.close();
    const newer = await looked(() => ({ data }));
    expect(of(newer, "journal")).toMatchObject([{ state: "bad", text: expect.stringContaining("newer version") }]);
    const file = join(temporaryFolder(), "file");
    writeFileSync(file, "");
    expect(of(await looked(() => ({ data: file })), "data folder")).toMatchObject([{ state: "bad" }]);
  });

  it("sees certificates that end soon, have ended, or are for another name", async () => {
    const files = makeCertificate(temporaryFolder());
    const listen = { port: 0, url: "https://localhost", tls: { ...files } };
    expect(of(await looked(() => ({ listen })), "certificate")).toMatchObject([
      { state: "look", text: expect.stringContaining("ends in 1 days") },
    ]);
    const later = await looked(() => ({ listen }), { nowMs: Date.now() + 5 * DAY_MS });
    expect(of(later, "certificate")).toMatchObject([{ state: "bad", text: expect.stringContaining("has ended") }]);
    const other = { ...listen, url: "https://harbor.example" };
    expect(of(await looked(() => ({ listen: other })), "certificate")).toMatchObject([
      { state: "bad", text: expect.stringContaining("is not for harbor.example") },
    ]);
    const gone = { ...listen, tls: { ...files, certFile: "/nowhere.pem" } };
    expect(of(await looked(() => ({ listen: gone })), "certificate")).toMatchObject([{ state: "bad" }]);
  });

  it("sees secrets that are missing, empty, or readable by everybody", async () => {
    const folder = temporaryFolder();
    mkdirSync(join(folder, "secrets"));
    const place = (name: string) => join(folder, "secrets", name);
    writeFileSync(place("empty"), "\n");
    writeFileSync(place("open"), "hunter2\n", { mode: 0o644 });
    writeFileSync(place("good"), "hunter2\n", { mode: 0o600 });
    const secrets = {
      ...Object.fromEntries(["missing", "empty", "open", "good"].map((name) => [name, { file: place(name) }])),
      unset: { environment: "YELLOW_HARBOR_TEST_UNSET" },
    };
    const texts = of(await looked(() => ({ secrets })), "secrets").map(({ state, text }) => `${state} ${text}`);
    expect(texts).toEqual([
      "bad missing cannot be read",
      "bad empty is empty",
      `look everybody on this computer can read ${place("open")}`,
      "bad unset cannot be read",
    ]);
    expect(texts.join()).not.toContain("hunter2");
  });

  it("sees ports that are taken, ranges that do not fit, and too few files for the players", async () => {
    const squatter = createServer();
    await new Promise<void>((resolve) => squatter.listen(0, "127.0.0.1", resolve));
    const { port } = squatter.address() as AddressInfo;
    const taken = await looked(({ listen, pools, players }) => ({
      listen: { ...listen, port },
      pools: { sluice: { ...pools["sluice"], ports: { from: port, to: port + 5 } } },
      players: { ...players, limit: 1_000_000 },
    }));
    squatter.close();
    expect(of(taken, "port")).toMatchObject([{ state: "bad", text: expect.stringContaining("EADDRINUSE") }]);
    expect(of(taken, "pools")).toMatchObject([{ state: "bad", remedy: "move pools.sluice.ports" }]);
    expect(of(taken, "open files")).toMatchObject([
      { state: expect.stringMatching(/look|ok/), text: expect.stringContaining("1000000 players need 1000200") },
    ]);
    const few = await looked(({ pools }) => ({ pools: { sluice: { ...pools["sluice"], max: 90 } } }));
    expect(of(few, "pools")).toMatchObject([{ state: "look", text: "sluice has 50 ports for 90 instances" }]);
  });
});
