import { execFileSync } from "node:child_process";
import { copyFileSync, existsSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { configurationIn, filesOf, installInto, makeRelease, putCompiledModule, serveWith } from "./packed.ts";
import { runNode } from "./run-yh.ts";

const { version } = JSON.parse(readFileSync(join(ROOT, "package.json"), "utf8"));

let folder: string;
let release: string;
let project: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "yellow-harbor-packed-"));
  [release, project] = [join(folder, "release"), join(folder, "project")];
  makeRelease(release);
  const sdks = ["protocol", "client", "kit"].map((name) => join(release, `yellow-harbor-${name}-${version}.tgz`));
  installInto(project, sdks);
  for (const name of ["server.mjs", "players.mjs", "consumer.ts"]) {
    copyFileSync(join(ROOT, "tests/packed", name), join(project, name));
  }
}, 120_000);
afterAll(async () => {
  await endAll();
  rmSync(folder, { recursive: true, force: true });
});

/** A whole voyage between what is installed in the project and a service that a package of yh runs. */
async function playWith(yh: readonly string[]) {
  const service = await serveWith(yh, configurationIn(project, "server.mjs"));
  try {
    const page = await (await fetch(service.url)).text();
    return { ...(await runNode([join(project, "players.mjs"), service.url])), page };
  } finally {
    await service.stop();
    rmSync(join(project, "data"), { recursive: true });
  }
}

/** Each of them brings the console as well. */
const VOYAGE = {
  code: 0,
  out: JSON.stringify({ boarded: ["Ansel", "Brisa"], standings: 2 }),
  err: "",
  page: expect.stringContaining("<title>"),
};

describe("what a release consists of", () => {
  it("runs from the folder that brings its Node, with the SDKs in an empty project, through a voyage", async () => {
    const [unpacked = ""] = filesOf(join(release, "staging"), process.arch);
    expect(await playWith([join(unpacked, "bin/yh")])).toEqual(VOYAGE);
    const versions = execFileSync(join(unpacked, "bin/yh"), ["--version", "--json"], { encoding: "utf8", env: {} });
    expect(JSON.parse(versions)).toMatchObject({ product: version });
  });

  it("has a package of yh that is installed for all by one command, with service and console inside", async () => {
    const prefix = join(folder, "prefix");
    installInto(
      prefix,
      [join(release, `yellow-harbor-${version}.tgz`)],
      ["-g", "--prefix", prefix, "--ignore-scripts"],
    );
    putCompiledModule(join(prefix, "lib/node_modules/yellow-harbor/node_modules"));
    const yh = join(prefix, "bin/yh");
    expect(await playWith([yh])).toEqual(VOYAGE);
  });

  it("has types by which a project is checked strictly, without ours", () => {
    const tsc = join(ROOT, "node_modules/.bin/tsc");
    const args = ["--noEmit", "--strict", "--target", "es2022", "--module", "nodenext", "--types", "", "consumer.ts"];
    const lib = ["--lib", "es2023,dom,dom.iterable", "--skipLibCheck", "false"];
    expect(execFileSync(tsc, [...args, ...lib], { cwd: project, encoding: "utf8" })).toBe("");
  });

  it("has a file by which a page without a bundler plays, in a real browser", async () => {
    const service = await startTestService();
    const files = join(project, "node_modules/@yellow-harbor/client/dist");
    const pages = createServer(({ url }, response) => {
      const isScript = url === "/browser.js";
      response.setHeader("content-type", isScript ? "text/javascript" : "text/html");
      response.end(isScript ? readFileSync(join(files, "browser.js")) : "<!doctype html><title>A game</title>");
    });
    await new Promise<void>((resolve) => pages.listen(0, "127.0.0.1", resolve));
    const executablePath = process.env["CHROMIUM"] ?? "/usr/bin/chromium";
    const browser = await chromium.launch({ executablePath, args: ["--no-sandbox", "--disable-gpu"] });
    try {
      const page = await browser.newPage();
      await page.goto(`http://127.0.0.1:${(pages.address() as AddressInfo).port}/`);
      // As text: the page is to load the file as it is.
      const code = await page.evaluate<string>(`import("/browser.js").then(async ({ PlayerClient }) => {
        const player = await PlayerClient.connect({ url: "${service.url}", name: "Ansel", build: "game-1" });
        return (await player.openRoom({ capacity: 2 })).room.code;
      })`);
      expect((await service.operator.room(code)).members).toBeDefined();
    } finally {
      await browser.close();
      pages.close();
    }
  });

  it("ships no sources, tests or maps, and says what of others is inside, with licences", () => {
    for (const file of filesOf(release, ".tgz")) {
      const names = execFileSync("tar", ["-tzf", file], { encoding: "utf8" }).split("\n");
      expect(names.filter((name) => /\.test\.(ts|js|mjs)$|\.map$|\/src\/|\.tsbuildinfo|testing/.test(name))).toEqual(
        [],
      );
      expect(names).toContain("package/LICENSE");
      expect(names).toContain("package/README.md");
    }
    const { packages } = JSON.parse(readFileSync(join(ROOT, "package-lock.json"), "utf8")) as {
      packages: Record<string, { version: string; dev?: boolean }>;
    };
    const bill = JSON.parse(readFileSync(join(release, `yellow-harbor-${version}.cdx.json`), "utf8")) as {
      bomFormat: string;
      components: { name: string; version: string; hashes?: unknown[]; licenses?: unknown[]; purl: string }[];
    };
    expect(bill.bomFormat).toBe("CycloneDX");
    const texts = readFileSync(join(release, "staging/yh/THIRD-PARTY.txt"), "utf8");
    const ofOthers = bill.components.filter(({ hashes }) => hashes !== undefined);
    // Fastify, zod, SQLite, React ... : more than a handful, or the bill was read wrongly.
    expect(ofOthers.length).toBeGreaterThan(50);
    for (const { name, version: one, licenses, purl } of ofOthers) {
      expect({ name, licences: licenses?.length }).toEqual({ name, licences: 1 });
      expect(purl).toContain(`@${one}`);
      const inLock = Object.entries(packages).some(
        ([path, at]) => path.endsWith(`node_modules/${name}`) && at.version === one,
      );
      expect({ name, inLock }).toEqual({ name, inLock: true });
    }
    for (const name of ["fastify", "zod", "better-sqlite3", "react", "jose"]) expect(texts).toContain(`\n${name} `);
  });

  it("has checksums that hold, notes of the version, and nothing but what is named there", () => {
    const checked = execFileSync("sha256sum", ["--check", "--strict", "SHA256SUMS"], {
      cwd: release,
      encoding: "utf8",
    });
    const files = checked.trim().split("\n");
    expect(files.every((line) => line.endsWith(": OK"))).toBe(true);
    expect(files.length).toBe(6);
    expect(readFileSync(join(release, "NOTES.md"), "utf8")).toMatch(new RegExp(`^# Yellow Harbor ${version}\n`));
    expect(existsSync(join(release, "SHA256SUMS"))).toBe(true);
  });
});
