import { spawn } from "node:child_process";
import { existsSync, mkdirSync, openSync, readFileSync, statSync, utimesSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { BuildSpec } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it, vi } from "vitest";
import { followOutput } from "../api/follow-output.ts";
import { endAll, temporaryFolder } from "../testing/test-service.ts";
import { outputOf } from "./output-file.ts";
import { formerOutput, sweepOutput, trimOutput } from "./output-keeper.ts";
import { linesSince, patternsOf } from "./output-watcher.ts";

afterEach(endAll);

const LIMITS = { keepBytes: 20_000, keepMs: 60_000 };

const read = async (file: string, tailBytes: number): Promise<string> => {
  const chunks: Buffer[] = [];
  const following = { tailBytes, goesOn: async () => false, abort: new AbortController().signal };
  for await (const chunk of followOutput(outputOf(file), following)) chunks.push(chunk);
  return Buffer.concat(chunks).toString();
};

describe("what instances print", () => {
  it("is put aside while the process writes on, and read on across that", { timeout: 30_000 }, async () => {
    const folder = temporaryFolder();
    mkdirSync(join(folder, "i_1"));
    const file = join(folder, "i_1", "output.log");
    const script =
      "let n = 0; const t = setInterval(() => { console.log('line ' + n++); if (n > 8000) clearInterval(t); }, 0.2)";
    const child = spawn(process.execPath, ["-e", script], { stdio: ["ignore", openSync(file, "a"), "ignore"] });
    const ended = new Promise((resolve) => child.once("exit", resolve));
    try {
      await vi.waitUntil(() => statSync(file).size > LIMITS.keepBytes, { timeout: 30_000 });
      await trimOutput(folder, ["i_1"], LIMITS);
      expect(statSync(formerOutput(file)).size).toBe(LIMITS.keepBytes);
      await vi.waitUntil(() => statSync(file).size > 2_000, { timeout: 30_000 });
    } finally {
      child.kill();
      await ended;
    }
    const former = readFileSync(formerOutput(file), "utf8");
    const now = readFileSync(file, "utf8");
    // It goes on at the beginning of the file, without a gap of nothing before it.
    expect(now).toMatch(/^line \d+\n|^\d*\n/);
    expect(await read(file, 10)).toBe(now.slice(-10));
    expect(await read(file, now.length + 30)).toBe(former.slice(-30) + now);
    expect(await read(file, 10_000_000)).toBe(former + now);
  });

  it("is held within its bounds however much came at once, and whoever reads on finds its place", async () => {
    const folder = temporaryFolder();
    mkdirSync(join(folder, "i_1"));
    const file = join(folder, "i_1", "output.log");
    const noise = "a gull cries\n".repeat(200_000);
    writeFileSync(file, `${noise}Ansel joined\n${"more\n".repeat(100)}`);
    await trimOutput(folder, ["i_1"], LIMITS);
    expect([statSync(file).size, statSync(formerOutput(file)).size]).toEqual([0, LIMITS.keepBytes]);
    const patterns = patternsOf(
      BuildSpec.parse({ command: "x", ready: "port", watch: { joined: "^(?<name>.+) joined$" } }),
    );
    const lines = await linesSince(outputOf(file), "out", noise.length, patterns);
    expect(lines).toMatchObject({
      anew: true,
      upTo: 0,
      said: [{ what: "joined", who: { by: "name", text: "Ansel" } }],
    });
  });

  it("is removed long after the last word of an instance that is gone, and kept for one that runs", async () => {
    const folder = temporaryFolder();
    const long = new Date(Date.now() - 120_000);
    for (const name of ["i_old", "i_live", "i_new"]) {
      mkdirSync(join(folder, name));
      const file = join(folder, name, "output.log");
      writeFileSync(file, "said\n");
      if (name !== "i_new") for (const path of [file, join(folder, name)]) utimesSync(path, long, long);
    }
    await sweepOutput(folder, new Set(["i_live"]), LIMITS, Date.now());
    expect(["i_old", "i_live", "i_new"].map((name) => existsSync(join(folder, name)))).toEqual([false, true, true]);
    await sweepOutput(join(folder, "nothing"), new Set(), LIMITS, Date.now());
  });
});
