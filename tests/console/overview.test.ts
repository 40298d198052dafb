import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { SeriesStore } from "../../packages/service/src/series/series-store.ts";
import { startTestService, temporaryFolder } from "../../packages/service/src/testing/test-service.ts";
import { consoleFolder, look, withBrowser } from "./browser.ts";

withBrowser();

/** Half an hour of a service, with a gap in it. */
function keptBefore(folder: string): void {
  const store = new SeriesStore(join(folder, "series.sqlite"));
  const nowMs = Math.floor(Date.now() / 10_000) * 10_000;
  for (let n = 180; n > 0; n--) {
    if (n > 90 && n < 110) continue;
    const players = 20 + (n % 7);
    const gauges = { players, inLobbies: 6, searching: 3, inRooms: 11, playing: 8, rooms: 4, instances: 3 };
    const counts = { arrived: 1, matched: 0, started: n % 6 === 0 ? 1 : 0, failed: n === 60 ? 1 : 0, played: 0 };
    store.put(10_000, { ...gauges, ...counts, atMs: nowMs - n * 10_000 });
  }
  store.close();
}

describe("the overview of the console", () => {
  it("shows what is so now, draws the last hour, and says how far players came; another span is asked for", async () => {
    const data = temporaryFolder();
    keptBefore(data);
    const service = await startTestService(undefined, { consoleFolder, data });
    const ansel = await service.player("Ansel");
    await ansel.openRoom();
    const { page, faults } = await look(service.url);
    await page.getByText("26 players at the most").waitFor();
    expect(await page.locator("#now").innerText()).toContain("1\nin rooms");
    const lines = page.getByRole("img", { name: "Players over the last hour" });
    const curve = lines.locator('path[stroke="#1B6A8F"]').first();
    await curve.waitFor({ state: "attached" });
    expect(await lines.innerText()).toContain("connected");
    const flow = await page.locator("#flow").innerText();
    // Ansel counts with the next point.
    expect(flow).toMatch(/16[12]\nplayers came in/);
    expect(flow).toMatch(/1\ntravels came to nothing; \d+ % of \d+ travels/);
    await page.getByRole("button", { name: "month" }).click();
    await page.getByText("Nothing is kept of the last month yet: a point comes every 120 min.").waitFor();
    // At the width of a phone nothing stands out of the page.
    await page.setViewportSize({ width: 390, height: 800 });
    await page.getByRole("button", { name: "hour" }).click();
    await curve.waitFor({ state: "attached" });
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    expect(faults).toEqual([]);
  });
});
