import { existsSync } from "node:fs";
import { join } from "node:path";
import { type Browser, chromium, type Page } from "playwright-core";
import { afterAll, afterEach, beforeAll, expect } from "vitest";
import { endAll } from "../../packages/service/src/testing/test-service.ts";
import { ROOT } from "../imports.ts";

export const consoleFolder = join(ROOT, "packages/console/dist/app");
const executablePath = process.env.CHROMIUM ?? "/usr/bin/chromium";

let browser: Browser;
const pages: Page[] = [];

/** Has a browser for the tests of a file, and ends what each has opened. */
export function withBrowser(): void {
  beforeAll(async () => {
    expect(existsSync(executablePath), "Chromium; npm test installs it").toBe(true);
    expect(existsSync(join(consoleFolder, "index.html")), "the built console; npm run build makes it").toBe(true);
    const off = ["gpu", "quic", "background-networking", "component-update", "sync"].map((one) => `--disable-${one}`);
    browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--no-first-run", ...off] });
  });
  afterAll(() => browser?.close());
  // A page that is left open goes on looking for its service, at the cost of the next one.
  afterEach(async ({ task }) => {
    for (const page of pages.splice(0)) {
      // What somebody would have seen says more of a failure than what was waited for.
      if (task.result?.state === "fail") console.error(`${page.url()} shows: ${await page.innerText("body")}`);
      await page.close();
    }
    await endAll();
  });
}

/** Opens a page, and collects what goes wrong in it. */
export async function look(
  url: string,
  viewport = { width: 1280, height: 800 },
): Promise<{ page: Page; faults: string[] }> {
  const page = await browser.newPage({ viewport });
  pages.push(page);
  const faults: string[] = [];
  page.on("pageerror", (error) => faults.push(error.message));
  await page.goto(url);
  return { page, faults };
}
