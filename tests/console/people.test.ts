import { describe, expect, it } from "vitest";
import { Config } from "../../packages/service/src/config/schema.ts";
import { startTestService, testConfig } from "../../packages/service/src/testing/test-service.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

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
    await corin.joinRoom({ room: "r_000000000000" }).catch(() => undefined);
    await corin.chat("Go home.");
    await brisa.relations.report({ player: corin.id, reason: "abuse", text: "shouts" });
    const { page, faults } = await look(`${service.url}/#/people`);
    const players = page.locator("#players");
    await players.getByRole("button", { name: "Corin" }).waitFor();
    expect(await players.locator("tbody tr").count()).toBe(3);
    await page.getByRole("link", { name: "Parties" }).click();
    await page
      .locator("#parties tbody tr")
      .filter({ hasText: "Ansel (leads)" })
      .filter({ hasText: "2 of 8" })
      .waitFor();
    await page.getByRole("link", { name: "Reports" }).click();
    const report = page.locator("#reports tbody tr").filter({ hasText: "shouts" });
    await report.filter({ hasText: "“Go home.” to the lobby" }).waitFor();
    // Whom it is about opens beside the lists.
    await report.getByRole("button", { name: "Corin" }).click();
    const detail = page.getByRole("article", { name: "Corin" });
    await detail.getByText("abuse by Brisa").waitFor();
    await detail.getByText("in the lobby Quayside").waitFor();
    // What it did, what happened to it, and what it was refused.
    await detail.getByText(`Corin leaves room ${room.code}`, { exact: false }).waitFor();
    await detail.getByText("room-unknown").waitFor();
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
    // Who is gone is still told of.
    await detail.getByText("What was known last stands below.", { exact: false }).waitFor();
    await detail.getByText("Corin was kicked by an operator.", { exact: false }).waitFor();
    await page.getByRole("link", { name: "Players" }).click();
    await players.getByRole("button", { name: "Brisa" }).waitFor();
    await players.getByRole("button", { name: "Corin" }).waitFor({ state: "detached" });
    await page.getByRole("combobox", { name: "Presence" }).selectOption("away");
    await players.getByText("No player fits.").waitFor();
    expect(page.url()).toContain("presence=away");
    expect(faults).toEqual([]);
  });
});
