import axe from "axe-core";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { startTestService, startVoyage, testConfig } from "../../packages/service/src/testing/test-service.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

const AREAS = ["/", "/rooms", "/people", "/people/parties", "/people/reports", "/queues", "/fleet", "/try"];
AREAS.push("/operation", "/access");

describe("lists of the console", () => {
  it("draw of any number of rows those in sight, sort by a heading, and say in the address by which", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    for (let n = 0; n < 60; n++) {
      const player = await service.player(`Crew ${n + 100}`);
      await player.openRoom({ name: `Room of ${n + 100}`, capacity: 1 + (n % 6) });
    }
    const { page, faults } = await look(`${service.url}/#/rooms`);
    await page.getByText("60 rooms").waitFor();
    const rows = page.locator("#rooms tbody tr[data-index]");
    expect(await rows.count()).toBeLessThan(45);
    expect(await page.getByRole("table", { name: "Rooms" }).getAttribute("aria-rowcount")).toBe("60");
    // The last comes into sight when somebody scrolls there.
    await page.getByLabel("Rooms, scrolls").evaluate((box) => box.scrollTo(0, box.scrollHeight));
    await rows.filter({ hasText: "Crew 159" }).waitFor();
    await page.getByRole("button", { name: "Code" }).click();
    await page.getByRole("columnheader", { name: "Code" }).and(page.locator("[aria-sort=ascending]")).waitFor();
    expect(page.url()).toContain("sort=code");
    await page.getByLabel("Rooms, scrolls").evaluate((box) => box.scrollTo(0, 0));
    const codes = await rows.locator("td:first-child button").allInnerTexts();
    expect(codes).toEqual([...codes].sort());
    await page.getByPlaceholder("Code, name, level or member").fill("crew 142");
    await page.getByText("1 of 60 rooms").waitFor();
    await page.reload();
    await page.getByText("1 of 60 rooms").waitFor();
    // Players are asked for by pages, and found by a part of their names.
    await page.goto(`${service.url}/#/people`);
    await page.getByText("60 players").waitFor();
    await page.getByPlaceholder("Name, id or account").fill("W 14");
    await page.getByText("10 players").waitFor();
    expect(faults).toEqual([]);
  });

  it("are led to by one search over all there is", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    const { page, faults } = await look(service.url);
    await page.getByRole("heading", { name: "Now" }).waitFor();
    await page.keyboard.press("Control+k");
    const box = page.getByRole("combobox", { name: "Find a room, player or instance" });
    await box.fill("anse");
    const found = page.getByRole("listbox", { name: "What was found" });
    await found.getByRole("option", { name: `Ansel, ${ansel.id}` }).waitFor();
    await box.fill(room.code);
    await found.getByRole("option", { name: new RegExp(room.code) }).waitFor();
    await box.press("Enter");
    await page.getByRole("article", { name: `Room ${room.code}` }).waitFor();
    await page.getByRole("link", { name: "Ansel" }).click();
    await page.getByRole("article", { name: "Ansel" }).getByText("What happened").waitFor();
    await page.goBack();
    await page.getByRole("article", { name: `Room ${room.code}` }).waitFor();
    await page.goto(`${service.url}/#/nowhere`);
    await page.getByText("There is no page at this address.").waitFor();
    expect(faults).toEqual([]);
  });

  it("are cards at the width of a phone: nothing stands out of a page, and what is opened takes its place", async () => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const { room } = await startVoyage(service);
    const { page, faults } = await look(`${service.url}/#/rooms`, { width: 390, height: 844 });
    for (const area of AREAS) {
      await page.goto(`${service.url}/#${area}`);
      await page.locator("main h2").first().waitFor();
      expect(await page.evaluate(() => document.documentElement.scrollWidth), area).toBeLessThanOrEqual(390);
    }
    await page.goto(`${service.url}/#/rooms`);
    await page.getByRole("button", { name: room.code }).click();
    await page.getByRole("article", { name: `Room ${room.code}` }).waitFor();
    expect(await page.getByRole("main").isVisible()).toBe(false);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    await page.getByRole("button", { name: "Close", exact: true }).click();
    await page.getByRole("main").waitFor();
    expect(faults).toEqual([]);
  });
});

interface Violation {
  readonly id: string;
  readonly impact: string;
  readonly nodes: readonly { readonly html: string; readonly failureSummary: string }[];
}

/** What hinders somebody seriously, by the rules of axe. */
async function hindrances(page: Page): Promise<string[]> {
  // As somebody who debugs would, past what the page itself may load.
  await page.evaluate(axe.source);
  const found = await page.evaluate(async () => {
    const { axe: own } = globalThis as unknown as { axe: { run: () => Promise<{ violations: Violation[] }> } };
    return (await own.run()).violations;
  });
  return found
    .filter(({ impact }) => impact === "serious" || impact === "critical")
    .flatMap(({ id, nodes }) =>
      nodes.map(({ html, failureSummary }) => `${id}: ${html.slice(0, 160)} ${failureSummary}`),
    );
}

describe("every page of the console", () => {
  it.each(["harbor-day", "harbor-dusk"])("has nothing that hinders seriously, in %s", async (theme) => {
    const service = await startTestService(testConfig(), { consoleFolder });
    const { room, ansel } = await startVoyage(service);
    const { page, faults } = await look(service.url);
    // Colours are looked at where they end, not on their way there.
    await page.emulateMedia({ reducedMotion: "reduce" });
    await page.evaluate((kept) => localStorage.setItem("yellow-harbor-theme", kept), theme);
    await page.reload();
    for (const area of [...AREAS, `/rooms?open=${room.id}`, `/people?open=${ansel.id}`]) {
      await page.goto(`${service.url}/#${area}`);
      await page.locator("main h2").first().waitFor();
      if (area.includes("open=")) await page.locator("aside article").waitFor();
      expect(await hindrances(page), area).toEqual([]);
    }
    expect(faults).toEqual([]);
  });
});
