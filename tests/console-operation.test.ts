import { existsSync } from "node:fs";
import { join } from "node:path";
import { type Browser, chromium } from "playwright-core";
import { afterAll, afterEach, beforeAll, describe, expect, it } from "vitest";
import { Config } from "../packages/service/src/config/schema.ts";
import { Webhook } from "../packages/service/src/config/webhook.ts";
import { endAll, startTestService, testConfig } from "../packages/service/src/testing/test-service.ts";
import { startReceiver } from "../packages/service/src/testing/webhook-receiver.ts";
import { ROOT } from "./imports.ts";

const consoleFolder = join(ROOT, "packages/console/dist/app");
const executablePath = process.env["CHROMIUM"] ?? "/usr/bin/chromium";

let browser: Browser;
beforeAll(async () => {
  expect(existsSync(executablePath), "Chromium; npm test installs it").toBe(true);
  browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
});
afterAll(() => browser?.close());
afterEach(endAll);

describe("the console, of people", () => {
  it("shows players, parties and reports, tells a player something, and kicks one with a second click", async () => {
    const lobbies = (one: Config) => ({ quayside: { ...one.lobbies["quayside"], chat: {} } });
    const config = testConfig("good", (one) => Config.parse({ ...one, lobbies: lobbies(one) }));
    const service = await startTestService(config, { consoleFolder });
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const { party } = await ansel.parties.open();
    await brisa.parties.join({ code: party.code });
    const { room } = await corin.openRoom();
    await corin.leaveRoom();
    await corin.chat("Go home.");
    await brisa.relations.report({ player: corin.id, reason: "abuse", text: "shouts" });
    const page = await browser.newPage({ viewport: { width: 1280, height: 900 } });
    const faults: string[] = [];
    page.on("pageerror", (error) => faults.push(error.message));
    await page.goto(`${service.url}/#people`);
    const players = page.locator("#players");
    await players.getByRole("button", { name: "Corin" }).waitFor();
    expect(await players.locator("tbody tr").count()).toBe(3);
    await page
      .locator("#parties tbody tr")
      .filter({ hasText: "Ansel (leads)" })
      .filter({ hasText: "2 of 8" })
      .waitFor();
    const report = page.locator("#reports tbody tr").filter({ hasText: "shouts" });
    await report.filter({ hasText: "“Go home.” to the lobby" }).waitFor();
    // Whom it is about opens beside the lists.
    await report.getByRole("button", { name: "Corin" }).click();
    const detail = page.getByRole("article", { name: "Corin" });
    await detail.getByText("abuse by Brisa").waitFor();
    await detail.getByText("in the lobby Quayside").waitFor();
    expect(room.code).toMatch(/^[A-Z0-9]{5}$/);
    const told = new Promise<string>((resolve) => corin.on("notice", ({ text }) => resolve(text)));
    const kicked = new Promise((resolve) => corin.on("ended", resolve));
    const words = detail.getByRole("textbox", { name: "What is told to Corin" });
    await words.fill("Mind your words.");
    await detail.getByRole("button", { name: "Notify" }).click();
    expect(await told).toBe("Mind your words.");
    await page.getByRole("status").filter({ hasText: "Corin was told so." }).waitFor();
    await words.fill("Told twice.");
    await detail.getByRole("button", { name: "Kick" }).click();
    // The first click only asks.
    expect(corin.isConnected).toBe(true);
    await detail.getByRole("button", { name: "Corin is gone at once: do it" }).click();
    expect(await kicked).toMatchObject({ problem: { code: "kicked", detail: expect.stringContaining("Told twice.") } });
    await players.getByRole("button", { name: "Corin" }).waitFor({ state: "detached" });
    await page.getByRole("combobox", { name: "Presence" }).selectOption("away");
    await players.getByText("Nobody is here.").waitFor();
    expect(faults).toEqual([]);
    await page.close();
  });
});

describe("the console, of how the service is run", () => {
  it("shows webhooks and what was put aside, sends it again, and applies the configuration", async () => {
    process.env["HOOK"] = `whsec_${Buffer.alloc(24, 3).toString("base64")}`;
    let refuses = true;
    const receiver = await startReceiver((_received, response) => {
      if (refuses) response.writeHead(410).end("gone");
      return refuses;
    });
    const config = testConfig("good", (one) => ({
      ...one,
      secrets: { hook: { environment: "HOOK" } },
      webhooks: {
        backend: Webhook.parse({
          url: receiver.url,
          secrets: ["hook"],
          privateAddresses: true,
          events: ["player.connected"],
        }),
      },
    }));
    let next = config;
    const service = await startTestService(config, {
      consoleFolder,
      reload: () => ({ ok: true, file: "harbor.yaml", config: { ...next, data: service.data } }),
    });
    await service.player("Ansel");
    await receiver.until(({ requests }) => requests.length > 0);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const faults: string[] = [];
    page.on("pageerror", (error) => faults.push(error.message));
    await page.goto(`${service.url}/#operation`);
    const webhooks = page.locator("#webhooks");
    await webhooks.getByRole("button", { name: "Look" }).click();
    const aside = page.getByRole("article", { name: "Put aside for backend" });
    await aside.getByText(/410/).waitFor();
    refuses = false;
    await aside.getByRole("button", { name: "Send all again" }).click();
    await page.getByText("1 event of backend will be sent again.").waitFor();
    await receiver.until(({ requests }) => requests.length > 1);
    await webhooks.getByText("Nothing is put aside for backend.").waitFor();
    await webhooks.getByRole("button", { name: "Test" }).click();
    await page.getByText(/backend: taken in \d+ ms: 204/).waitFor();

    await page.getByText("as in the file").waitFor();
    next = { ...config, players: { ...config.players, limit: 77, silenceMs: 9_000 } };
    await page.reload();
    const own = page.locator("#configuration");
    await own.getByRole("row", { name: /players\.limit 10000 77 at once/ }).waitFor();
    await own.getByRole("row", { name: /players\.silenceMs 8000 9000 after a restart/ }).waitFor();
    await own.getByRole("button", { name: "Apply 1 change" }).click();
    await page.getByText("1 value taken. 1 more after a restart.").waitFor();
    expect((await service.operator.status()).players.limit).toBe(77);
    expect(faults).toEqual([]);
    await page.close();
    await receiver.close();
  });
});
