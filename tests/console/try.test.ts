import { describe, expect, it } from "vitest";
import { startTestService, testConfig } from "../../packages/service/src/testing/test-service.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

describe("players in the page", () => {
  it("meet in a room, come back when the line was cut, wait where it is slow, and ask whatever there is", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const { page, faults } = await look(`${service.url}/#/try`);
    const add = page.getByRole("button", { name: "Add a player" });
    await add.click();
    await add.click();
    const [ansel, brisa] = [page.getByRole("article", { name: "Ansel" }), page.getByRole("article", { name: "Brisa" })];
    await brisa.getByText("in the lobby").waitFor();
    await ansel.getByRole("button", { name: "Open crews" }).click();
    await ansel.getByText(/in room \w+, gathering/).waitFor();
    const { rooms } = await service.operator.rooms();
    await brisa.getByLabel("Code of a room").fill(rooms[0]?.code.toLowerCase() ?? "");
    await brisa.getByRole("button", { name: "Join", exact: true }).click();
    await brisa.getByText(/in room \w+, gathering/).waitFor();
    await ansel.getByText("update room member-joined").waitFor();

    await brisa.getByRole("button", { name: "Cut the line" }).click();
    await brisa.getByText("its line is cut").waitFor();
    await ansel.getByText("update room member-away").waitFor();
    await brisa.getByRole("button", { name: "Mend the line" }).click();
    await ansel.getByText("update room member-back").waitFor();
    await brisa.getByText(/in room \w+, gathering/).waitFor();

    await brisa.getByLabel("How slow its line is").selectOption("400");
    await brisa.getByRole("button", { name: "Ready" }).click();
    await brisa.getByRole("button", { name: "Not ready" }).waitFor();
    // What is refused says why.
    await ansel.getByRole("button", { name: "Start" }).click();
    await ansel.getByRole("alert").getByText("start-not-possible").waitFor();
    await ansel.getByText("Ask anything").click();
    await ansel.getByLabel("What is asked").selectOption("room.change");
    await ansel.getByLabel("Arguments as JSON").fill('{ "name": "Slack water" }');
    await ansel.getByRole("button", { name: "Ask", exact: true }).click();
    await ansel.getByText("request room.change").waitFor();
    await expect
      .poll(async () => (await service.operator.rooms()).rooms[0]?.name, { timeout: 30_000 })
      .toBe("Slack water");

    // They go on while another page is looked at, and leave when they are told to.
    await page.getByRole("link", { name: "People" }).click();
    await page.locator("#players").getByText("2 players").waitFor();
    await page.getByRole("navigation", { name: "Areas" }).getByRole("link", { name: "Try it" }).click();
    await page.getByRole("button", { name: "Remove Ansel" }).click();
    await page.getByRole("button", { name: "Remove Brisa" }).click();
    await expect.poll(async () => (await service.operator.players()).players.length, { timeout: 30_000 }).toBe(0);
    expect(faults).toEqual([]);
  });
});
