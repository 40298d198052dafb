import { afterEach, describe, expect, it, vi } from "vitest";
import { parseConfig } from "../config/load.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  TEST_CONFIG,
  type TestService,
  testConfig,
} from "../testing/test-service.ts";
import { definitions, type MetricDefinition } from "./definitions.ts";
import { Metrics } from "./metrics.ts";

afterEach(endAll);

const QUEUE = `
queues:
  crews: { title: Crews, lobby: quayside, roomKind: crews, sides: { count: 2, max: 1 }, passEveryMs: 50 }
`;

interface Line {
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly value: number;
}

/** What an OpenMetrics text says: each type once, and each line of a sample. */
function read(text: string) {
  const types = new Map<string, string>();
  const lines: Line[] = [];
  for (const row of text.split("\n")) {
    const [, family = "", type = ""] = /^# TYPE (\S+) (\S+)$/.exec(row) ?? [];
    // Two of one name would be refused by those who read it.
    if (types.has(family)) throw new Error(`the metric ${family} is there twice`);
    if (family !== "") types.set(family, type);
    const [, name = "", labels = "", value] = /^([a-z]\w*)(?:\{(.*)\})? (\S+)$/.exec(row) ?? [];
    if (value === undefined) continue;
    const pairs = [...labels.matchAll(/(\w+)="([^"]*)"/g)].map(([, key = "", is = ""]) => [key, is] as const);
    lines.push({ name, labels: Object.fromEntries(pairs), value: Number(value) });
  }
  const value = (name: string, labels: Line["labels"] = {}) =>
    lines.find((line) => line.name === name && Object.entries(labels).every(([key, is]) => line.labels[key] === is))
      ?.value;
  return { types, lines, value };
}

async function scrape({ url }: Pick<TestService, "url">) {
  const answer = await fetch(`${url}/metrics`);
  return { answer, text: await answer.text() };
}

describe("the metrics of a service", () => {
  it("are OpenMetrics text that ends as it has to, with every metric of the table and no other", async () => {
    const { answer, text } = await scrape(await startTestService());
    expect(answer.status).toBe(200);
    expect(answer.headers.get("content-type")).toBe("application/openmetrics-text; version=1.0.0; charset=utf-8");
    expect(text.endsWith("# EOF\n")).toBe(true);
    const own = [...read(text).types].filter(([name]) => name.startsWith("yh_"));
    const expected = Object.entries<MetricDefinition>(definitions).map(([name, { type }]) => [
      type === "counter" ? name.replace(/_total$/, "") : name,
      type,
    ]);
    expect(own.sort()).toEqual(expected.sort());
  });

  it("count a voyage once it is durable, and show what is so", async () => {
    const service = await startTestService();
    const { ansel, brisa } = await startVoyage(service);
    await ansel.nextPass();
    await expect(brisa.start()).rejects.toMatchObject({ code: "not-host" });
    await fetch(`${service.url}/v1/rooms/r_000000000000`);
    // Something may happen between the two, such as a measured heartbeat: those of one moment are compared.
    const { metrics, journal } = await vi.waitUntil(
      async () => {
        const found = read((await scrape(service)).text);
        const { journal: now } = await service.operator.status();
        return found.value("yh_journal_sequence") === now.seq && { metrics: found, journal: now };
      },
      { timeout: 30_000 },
    );
    const { value, lines } = metrics;
    expect(value("yh_players_connected_total")).toBe(2);
    expect(value("yh_players", { presence: "here" })).toBe(2);
    expect(value("yh_connections")).toBe(2);
    expect(value("yh_rooms_opened_total", { room_kind: "crews" })).toBe(1);
    expect(value("yh_rooms", { phase: "travelling" })).toBe(1);
    expect(value("yh_room_members")).toBe(2);
    expect(value("yh_travels_under_way")).toBe(1);
    expect(value("yh_requests_total", { request: "room.start" })).toBe(2);
    expect(value("yh_refusals_total", { to: "player", code: "not-host" })).toBe(1);
    expect(value("yh_refusals_total", { to: "operator", code: "room-unknown" })).toBe(1);
    expect(value("yh_http_requests_total", { route: "room", status: "4xx" })).toBe(1);
    expect(value("yh_instances", { pool: "sluice", state: "busy" })).toBe(1);
    expect(value("yh_instance_boot_seconds_count", { pool: "sluice" })).toBe(1);
    expect(value("yh_instance_boot_seconds_sum", { pool: "sluice" })).toBeGreaterThan(0);
    expect(value("yh_machine_instances", { machine: "here" })).toBe(1);
    const events = lines.filter(({ name }) => name === "yh_events_total");
    expect(events.reduce((sum, line) => sum + line.value, 0)).toBe(journal.seq);
    expect(value("yh_journal_batch_events_sum")).toBe(journal.seq);
    expect(value("yh_journal_append_seconds_count")).toBe(journal.commits);
  });

  it("give no label that the table does not have, whatever is sent", async () => {
    const service = await startTestService();
    await fetch(`${service.url}/v1/${"x".repeat(50)}`);
    await fetch(`${service.url}/nowhere`, { method: "DELETE" });
    const player = await service.player('Ansel "\\ {x}');
    await player.openRoom({ name: 'a="b"} 1' });
    const { text } = await scrape(service);
    const own = read(text).lines.filter(({ name }) => name.startsWith("yh_"));
    const table: Readonly<Record<string, MetricDefinition>> = definitions;
    for (const { name, labels } of own) {
      const { labels: known = [] } = table[name] ?? table[name.replace(/_(bucket|sum|count)$/, "")] ?? {};
      expect(Object.keys(labels).filter((label) => label !== "le" && !known.includes(label as never))).toEqual([]);
    }
    expect(text).not.toContain("Ansel");
    expect(own.some(({ labels }) => labels.route === "none" && labels.status === "4xx")).toBe(true);
  });

  it("need a key where operators do", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, operators: { ...config.operators, access: "key" } })),
    );
    const { answer } = await scrape(service);
    expect(answer.status).toBe(401);
    const headers = { authorization: `Bearer ${service.operatorToken}` };
    expect((await fetch(`${service.url}/metrics`, { headers })).status).toBe(200);
  });

  it("are told to ten who ask at once, each whole", async () => {
    const service = await startTestService();
    const answers = await Promise.all(Array.from({ length: 10 }, () => scrape(service)));
    for (const { text } of answers) {
      const { lines, value } = read(text);
      expect(value("yh_ready")).toBe(1);
      const names = lines.map(({ name, labels }) => `${name} ${JSON.stringify(labels)}`);
      expect(names.length).toBe(new Set(names).size);
    }
  });

  it("say that a search waits, was matched, or was given up", async () => {
    const parsed = parseConfig(TEST_CONFIG() + QUEUE);
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.faults));
    const service = await startTestService(parsed.config);
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    await corin?.search({ queue: "crews" });
    const { value: before } = read((await scrape(service)).text);
    expect(before("yh_queue_players", { queue: "crews" })).toBe(1);
    expect(before("yh_queue_oldest_wait_seconds", { queue: "crews" })).toBeGreaterThanOrEqual(0);
    await corin?.cancelSearch();
    await Promise.all([ansel, brisa].map((player) => player?.search({ queue: "crews" })));
    await ansel?.until((state) => state.room !== undefined);
    const { value } = read((await scrape(service)).text);
    expect(value("yh_tickets_ended_total", { queue: "crews", cause: "cancelled" })).toBe(1);
    expect(value("yh_matches_made_total", { queue: "crews" })).toBe(1);
    expect(value("yh_queue_wait_seconds_count", { queue: "crews" })).toBe(2);
  });
});

describe("an answer", () => {
  it("has nothing of what is no number, which stops nobody", async () => {
    const metrics = new Metrics();
    metrics.observe("yh_match_spread", { queue: "crews", attribute: "skill" }, Number.NaN);
    metrics.count("yh_journal_bytes_total", {}, -1);
    metrics.gatherFrom(async ({ set }) => set("yh_pool_wanted", [{ pool: "sluice" }, Number.POSITIVE_INFINITY]));
    const text = await metrics.text();
    expect(text).not.toContain("skill");
    expect(text).not.toContain("sluice");
    expect(text).toContain("yh_journal_bytes_total 0");
    metrics.close();
  });

  it("is not shared with those who asked before it, and has none of what is gone", async () => {
    const metrics = new Metrics();
    let pools = ["sluice", "weir"];
    metrics.gatherFrom(async ({ set }) => {
      for (const pool of pools) set("yh_pool_idle", [{ pool }, 1]);
    });
    const first = metrics.text();
    expect(await first).toContain('pool="weir"');
    pools = ["sluice"];
    const later = await metrics.text();
    expect(later).toContain('pool="sluice"');
    expect(later).not.toContain("weir");
    metrics.close();
  });
});
