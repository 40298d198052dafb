import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { loadDocuments } from "@yellow-harbor/service";
import { afterEach, describe, expect, it, vi } from "vitest";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../packages/service/src/testing/test-service.ts";

const FOLDER = fileURLToPath(new URL("../monitoring/", import.meta.url));
const prometheus = process.env["PROMETHEUS"] ?? "/usr/bin/prometheus";
const promtool = join(dirname(prometheus), "promtool");

interface Panel {
  readonly title: string;
  readonly targets?: readonly { readonly expr: string }[];
}

const shipped = (name: string) => readFileSync(join(FOLDER, name), "utf8");
const panels = (JSON.parse(shipped("dashboard.json")) as { panels: Panel[] }).panels;
const expressions = panels.flatMap(({ title, targets = [] }) => targets.map(({ expr }) => ({ title, expr })));

const ends: (() => Promise<void>)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0)) await end();
  await endAll();
});

describe("what is shipped for monitoring", () => {
  it("is there to be tried with", () => {
    expect(existsSync(promtool), "promtool; npm test installs it").toBe(true);
  });

  it("has rules that are well formed, and fire when they should", () => {
    execFileSync(promtool, ["check", "rules", join(FOLDER, "alerts.yml")], { stdio: "pipe" });
    execFileSync(promtool, ["test", "rules", join(FOLDER, "alerts.test.yml")], { stdio: "pipe" });
  });

  it("has a dashboard whose every expression is well formed", () => {
    expect(expressions.length).toBeGreaterThan(20);
    const rules = expressions.map(({ expr }, n) => ({
      record: `panel:${n}`,
      expr: expr.replaceAll("$__rate_interval", "1m").replaceAll("$instance", ".*"),
    }));
    const file = join(temporaryFolder(), "panels.json");
    writeFileSync(file, JSON.stringify({ groups: [{ name: "panels", rules }] }));
    execFileSync(promtool, ["check", "rules", file], { stdio: "pipe" });
  });

  it("names no metric that the service does not have", async () => {
    const { metricNames } = await loadDocuments();
    const families = new Set(metricNames);
    const texts = [...expressions.map(({ expr }) => expr), shipped("alerts.yml"), shipped("alerts.test.yml")];
    const named = new Set(texts.flatMap((text) => text.match(/\byh_[a-z_]+/g) ?? []));
    expect(named.size).toBeGreaterThan(25);
    expect([...named].filter((name) => !families.has(name.replace(/_(bucket|sum|count)$/, "")))).toEqual([]);
  });
});

describe("a Prometheus", () => {
  it("reads a service by a key of role look, and fires when the service is gone", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, operators: { ...config.operators, access: "key" } })),
    );
    await service.player("Ansel");
    const folder = temporaryFolder();
    const headers = { authorization: `Bearer ${service.operatorToken}`, "content-type": "application/json" };
    const made = await fetch(`${service.url}/v1/keys`, {
      method: "POST",
      headers,
      body: JSON.stringify({ name: "monitoring", role: "look" }),
    });
    writeFileSync(join(folder, "yellow-harbor.key"), ((await made.json()) as { secret: string }).secret);
    // As shipped, but for the pace and the place.
    const config = shipped("prometheus.yml")
      .replaceAll("15s", "1s")
      .replace("127.0.0.1:7420", `127.0.0.1:${service.port}`);
    writeFileSync(join(folder, "prometheus.yml"), config);
    writeFileSync(join(folder, "alerts.yml"), shipped("alerts.yml").replace(/for: \w+/g, "for: 0s"));
    const ask = await startPrometheus(folder);

    const count = async () => (await ask("query?query=yh_players_connected_total")).result?.[0]?.value?.[1];
    await vi.waitUntil(async () => (await count()) === "1", { timeout: 30_000, interval: 200 });
    const firing = async () =>
      ((await ask("alerts")).alerts ?? [])
        .filter(({ state }) => state === "firing")
        .map(({ labels }) => labels.alertname);
    expect(await firing()).toEqual([]);
    const targets = (await ask("targets")).activeTargets ?? [];
    expect(targets).toMatchObject([{ health: "up", lastError: "" }]);
    await service.stop();
    await vi.waitUntil(async () => (await firing()).includes("HarborUnreachable"), { timeout: 30_000, interval: 200 });
  });
});

interface Answer {
  readonly result?: readonly { readonly value: readonly [number, string] }[];
  readonly alerts?: readonly { readonly state: string; readonly labels: { readonly alertname: string } }[];
  readonly activeTargets?: readonly object[];
}

/** Starts one in a folder that has its configuration; returns how to ask it. */
async function startPrometheus(folder: string): Promise<(what: string) => Promise<Answer>> {
  const port = testPorts();
  const child = spawn(
    prometheus,
    [
      `--config.file=${join(folder, "prometheus.yml")}`,
      `--storage.tsdb.path=${join(folder, "data")}`,
      `--web.listen-address=127.0.0.1:${port}`,
      "--log.level=error",
    ],
    { stdio: ["ignore", "ignore", "inherit"] },
  );
  const ended = once(child, "exit");
  ends.push(async () => {
    child.kill();
    await ended;
  });
  const url = `http://127.0.0.1:${port}`;
  const isReady = () =>
    fetch(`${url}/-/ready`).then(
      ({ ok }) => ok,
      () => false,
    );
  await vi.waitUntil(isReady, { timeout: 30_000, interval: 100 });
  return async (what) => ((await (await fetch(`${url}/api/v1/${what}`)).json()) as { data: Answer }).data;
}
