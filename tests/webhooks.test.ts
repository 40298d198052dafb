import { spawn } from "node:child_process";
import { once } from "node:events";
import { createInterface } from "node:readline";
import { fileURLToPath } from "node:url";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Webhook } from "../packages/service/src/config/webhook.ts";
import { endAll, startTestService, testConfig } from "../packages/service/src/testing/test-service.ts";
import { startReceiver } from "../packages/service/src/testing/webhook-receiver.ts";
import { runYh } from "./run-yh.ts";

const SECRET = `whsec_${Buffer.alloc(24, 3).toString("base64")}`;
const PYTHON = fileURLToPath(new URL("../examples/python/webhook_receiver.py", import.meta.url));

const ends: (() => Promise<unknown>)[] = [];
beforeEach(() => {
  process.env["HOOK"] = SECRET;
});
afterEach(async () => {
  await endAll();
  for (const end of ends.splice(0)) await end();
});

const serviceFor = (url: string) => {
  const webhook = Webhook.parse({ url, secrets: ["hook"], events: ["player.*"], privateAddresses: true });
  return startTestService(
    testConfig("good", (config) => ({
      ...config,
      secrets: { hook: { environment: "HOOK" } },
      webhooks: { backend: webhook },
    })),
  );
};

describe("a receiver in Python", () => {
  it("written from the page takes what is signed, each event once, and nothing that is not", async () => {
    const child = spawn("python3", [PYTHON, "0", SECRET], { stdio: ["ignore", "pipe", "inherit"] });
    const ended = once(child, "exit");
    ends.push(() => {
      child.kill();
      return ended;
    });
    const lines: Record<string, unknown>[] = [];
    createInterface({ input: child.stdout }).on("line", (line) => lines.push(JSON.parse(line)));
    await vi.waitUntil(() => lines[0]?.["listening"], { timeout: 20_000 });
    const url = `http://127.0.0.1:${lines[0]?.["listening"]}/`;
    const service = await serviceFor(url);
    await service.player("Ansel");
    await vi.waitUntil(() => lines.length === 2, { timeout: 20_000 });
    expect(lines[1]).toMatchObject({ type: "yellow-harbor.player.connected", data: { player: { name: "Ansel" } } });
    const forged = await fetch(url, { method: "POST", body: JSON.stringify(lines[1]) });
    expect(forged.status).toBe(401);
    expect(await service.operator.testWebhook("backend")).toMatchObject({ ok: true });
    await vi.waitUntil(() => lines.length === 3, { timeout: 20_000 });
    expect(lines[2]).toMatchObject({ type: "yellow-harbor.webhook.test" });
  });
});

describe("yh webhook", () => {
  it("lists how it goes and what was put aside, sends that again or forgets it, and tries an address", async () => {
    let refuses = true;
    const receiver = await startReceiver((_, response) => {
      if (refuses) response.writeHead(422).end("not this one");
      return refuses;
    });
    ends.push(receiver.close);
    const service = await serviceFor(receiver.url);
    const yh = (...words: string[]) => runYh(["webhook", ...words, "--url", service.url]);
    await service.player("Ansel");
    await service.player("Brisa");
    await vi.waitUntil(async () => (await service.operator.webhooks()).webhooks[0]?.dead === 2, { timeout: 20_000 });
    const { out } = await yh("list");
    expect(out).toMatch(/backend +failing +0 +0 +- +2 +player\.\*/);
    expect(out).toContain("backend: 422: not this one");
    expect((await yh("dead", "backend")).out).toMatch(/player\.connected +p_\w+ .*1x .*422: not this one/);
    const { events } = JSON.parse((await yh("dead", "backend", "-n", "1", "--json")).out) as {
      events: { number: number }[];
    };
    expect(events).toHaveLength(1);
    expect(await yh("test", "backend")).toMatchObject({
      code: 6,
      out: expect.stringMatching(/^not taken after \d+ ms: 422/),
    });
    expect((await yh("discard", "backend", String(events[0]?.number))).out).toContain("1 event is forgotten.");
    refuses = false;
    expect((await yh("resend", "backend")).out).toContain("1 event is sent again to backend");
    await receiver.until(({ events: came }) => JSON.stringify(came.at(-1)).includes("Brisa"));
    expect(await yh("test", "backend")).toMatchObject({ code: 0, out: expect.stringMatching(/^taken in \d+ ms: 204/) });
    await vi.waitUntil(async () => (await yh("dead", "backend")).out.includes("Nothing was put aside."), {
      timeout: 20_000,
    });
    expect(await yh("dead", "backedn")).toMatchObject({
      code: 3,
      err: expect.stringContaining("There is no webhook backedn"),
    });
    expect(await yh("resend", "backend", "first")).toMatchObject({ code: 2 });
  });
});
