import { spawn } from "node:child_process";
import { once } from "node:events";
import { createInterface } from "node:readline";
import { fileURLToPath } from "node:url";
import { PlayerClient } from "@yellow-harbor/client";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Webhook } from "../packages/service/src/config/webhook.ts";
import { endAll, startTestService, testConfig } from "../packages/service/src/testing/test-service.ts";
import { startReceiver } from "../packages/service/src/testing/webhook-receiver.ts";
import { ServiceUnderTrial, TRIAL_BUILD } from "../trials/src/service-under-trial.ts";
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

/** The same numbers from 0 to 1 for the same seed (a linear congruential generator). */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

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
    await vi.waitUntil(() => lines[0]?.["listening"], { timeout: 30_000 });
    const url = `http://127.0.0.1:${lines[0]?.["listening"]}/`;
    const service = await serviceFor(url);
    await service.player("Ansel");
    await vi.waitUntil(() => lines.length === 2, { timeout: 30_000 });
    expect(lines[1]).toMatchObject({ type: "yellow-harbor.player.connected", data: { player: { name: "Ansel" } } });
    const forged = await fetch(url, { method: "POST", body: JSON.stringify(lines[1]) });
    expect(forged.status).toBe(401);
    expect(await service.operator.testWebhook("backend")).toMatchObject({ ok: true });
    await vi.waitUntil(() => lines.length === 3, { timeout: 30_000 });
    expect(lines[2]).toMatchObject({ type: "yellow-harbor.webhook.test" });
  });
});

describe("a service that is killed", () => {
  it("has told all that it had acknowledged, once it runs again: nothing is lost, and what comes twice has its id", async () => {
    const seed = Date.now() % 2_147_483_647;
    const chance = randomFrom(seed);
    // One in five is refused, and tried again.
    const receiver = await startReceiver((_, response) => {
      if (chance() > 0.2) return false;
      response.writeHead(503).end();
      return true;
    });
    ends.push(receiver.close);
    const more = `
secrets: { hook: { environment: HOOK } }
webhooks: { backend: { url: "${receiver.url}", secrets: [hook], events: ["player.*"], batch: 5, privateAddresses: true } }
`;
    const service = new ServiceUnderTrial({ more });
    ends.push(() => service.dispose());
    await service.start();
    const acknowledged = new Set<string>();
    for (let round = 0; round < 4; round++) {
      // In the middle of their coming, and of the telling.
      const enough = acknowledged.size + 1 + Math.floor(chance() * 18);
      await new Promise<void>((resolve) => {
        for (let n = 0; n < 20; n++) {
          const options = {
            url: service.url,
            name: `Bot ${round} ${n}`,
            build: TRIAL_BUILD,
            reconnect: false,
          } as const;
          PlayerClient.connect(options).then(
            (player) => {
              ends.push(async () => player.drop());
              acknowledged.add(player.id);
              if (acknowledged.size >= enough) resolve();
            },
            // It came too late for this life of the service.
            () => undefined,
          );
        }
      });
      await service.kill();
      await service.start();
    }
    const told = () => receiver.events.filter(({ type }) => type.endsWith("player.connected"));
    const isTold = () => {
      const subjects = new Set(told().map(({ subject }) => subject));
      return [...acknowledged].every((id) => subjects.has(id));
    };
    await vi.waitUntil(isTold, { timeout: 30_000 });
    const ids = new Map(told().map(({ id, subject }) => [id, subject]));
    expect(ids.size, `seed ${seed}`).toBe(new Set(told().map(({ subject }) => subject)).size);
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
    await vi.waitUntil(async () => (await service.operator.webhooks()).webhooks[0]?.dead === 2, { timeout: 30_000 });
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
      timeout: 30_000,
    });
    expect(await yh("dead", "backedn")).toMatchObject({
      code: 3,
      err: expect.stringContaining("There is no webhook backedn"),
    });
    expect(await yh("resend", "backend", "first")).toMatchObject({ code: 2 });
  });
});
