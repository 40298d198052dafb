import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { parseConfig } from "../packages/service/src/config/load.ts";
import {
  endAll,
  startTestService,
  TEST_CONFIG,
  temporaryFolder,
} from "../packages/service/src/testing/test-service.ts";
import { runYh } from "./run-yh.ts";

afterEach(endAll);

const CONFIG = `${TEST_CONFIG()}
queues:
  pairs:
    title: Pairs
    lobby: quayside
    roomKind: crews
    sides: { count: 2, max: 1 }
    party: { max: 1 }
    needs: [{ attribute: build, must: equal }]
    closeness: [{ attribute: skill, gap: [[0, 10], [60, 500]] }]
    confirm: {}
    passEveryMs: 50
`;

async function scene() {
  const folder = temporaryFolder();
  const file = join(folder, "harbor.yaml");
  writeFileSync(file, CONFIG);
  const read = () => {
    const parsed = parseConfig(readFileSync(file, "utf8"));
    return parsed.ok
      ? ({ ok: true, config: parsed.config, file, folder } as const)
      : ({ ok: false, faults: parsed.faults, file } as const);
  };
  const loaded = read();
  if (!loaded.ok) throw new Error(JSON.stringify(loaded.faults));
  const service = await startTestService(loaded.config, { reload: read });
  const players = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
  return { service, file, players, url: ["--url", service.url] };
}

describe("yh and queues", () => {
  it("keeps the traffic of a queue as it was, to try rules on, and takes the rules over while players wait", async () => {
    const { file, players, url } = await scene();
    const [ansel, brisa, corin] = players;
    await ansel?.search({ queue: "pairs", attributes: { skill: 1_000 }, latencyMs: { "north-quay": 20 } });
    await brisa?.search({ queue: "pairs", attributes: { skill: 1_300 } });
    await corin?.search({
      queue: "pairs",
      attributes: { skill: 5_000 },
      needs: [{ attribute: "build", must: "equal" }],
    });
    await corin?.cancelSearch();

    const traffic = join(temporaryFolder(), "traffic.jsonl");
    expect(await runYh(["journal", "traffic", "pairs", "--out", traffic, ...url])).toMatchObject({
      code: 0,
      err: expect.stringContaining("3 tickets of pairs"),
    });
    const lines = readFileSync(traffic, "utf8").trim().split("\n");
    const tickets = lines.map((line) => JSON.parse(line) as Record<string, unknown>);
    expect(tickets[0]).toMatchObject({
      at: 0,
      ticket: ansel?.ticket?.id,
      players: [{ id: ansel?.id, attributes: { skill: 1_000, build: "game-1" }, latencyMs: { "north-quay": 20 } }],
    });
    expect(tickets[1]).not.toHaveProperty("cancelAt");
    expect(tickets[2]).toMatchObject({ cancelAt: expect.any(Number), needs: [{ attribute: "build", must: "equal" }] });
    expect(await runYh(["journal", "traffic", "nobody", ...url])).toMatchObject({
      code: 2,
      err: expect.stringContaining("nobody who searched in nobody"),
    });

    // The lab says what other rules would have done; then the service is given them.
    const wider = join(temporaryFolder(), "wider.yaml");
    writeFileSync(wider, "closeness: [{ attribute: skill, gap: [[0, 400]] }]\n");
    const lab = await runYh([
      ...["lab", "queue", "--config", file, "--queue", "pairs", "--tickets", traffic],
      ...["--rules", wider, "--until", "2", "--json"],
    ]);
    expect(JSON.parse(lab.out)).toMatchObject({ rules: [{ matches: 0 }, { matches: 1 }] });
    writeFileSync(file, CONFIG.replace("[[0, 10], [60, 500]]", "[[0, 400]]"));
    expect((await runYh(["config", "apply", ...url])).out).toContain("Tickets of pairs keep the wait they have.");
    await vi.waitUntil(() => ansel?.ticket?.confirm, { timeout: 30_000 });
    expect((await runYh(["explain", "match", ansel?.ticket?.confirm?.match ?? "", ...url])).out).toContain(
      "0 of 2 players have accepted; Ansel and Brisa have not answered.",
    );
    expect((await runYh(["queue", "list", ...url])).out).toMatch(/CONFIRMING\s+BACKFILL/);

    writeFileSync(file, CONFIG.replace("max: 1 }", "max: none }"));
    expect(await runYh(["config", "apply", ...url])).toMatchObject({
      code: 7,
      err: expect.stringContaining("Nothing was changed"),
    });
  });
});
