import { describe, expect, it } from "vitest";
import { Webhook } from "../../packages/service/src/config/webhook.ts";
import { startTestService, testConfig } from "../../packages/service/src/testing/test-service.ts";
import { startReceiver } from "../../packages/service/src/testing/webhook-receiver.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

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
    const { page, faults } = await look(`${service.url}/#/operation`);
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
    await receiver.close();
  });
});
