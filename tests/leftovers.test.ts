import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdirSync, readdirSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it, vi } from "vitest";
import { endAll, isAlive, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";

afterEach(endAll);

/** Everything that has a process among its forebears, by what its environment says: also what was left to others since. */
function descendantsOf(mark: string): number[] {
  const lines = execFileSync("ps", ["-eo", "pid=,args=", "eww"], { encoding: "utf8", maxBuffer: 2 ** 26 }).split("\n");
  return lines.filter((line) => line.includes(mark)).map((line) => Number.parseInt(line, 10));
}

/** Runs an npm script under a mark that all it starts inherits, with a folder of its own for temporary files. */
function runScript(args: readonly string[]): { child: ChildProcess; mark: string; folder: string } {
  const folder = join(temporaryFolder(), "tmp");
  mkdirSync(folder, { recursive: true });
  // Instances are given few variables, among them the one for temporary files nowhere: HOME goes everywhere.
  const env = {
    ...process.env,
    HOME: folder,
    TMPDIR: folder,
    YH_DATA: join(folder, "data"),
    npm_config_cache: join(folder, "npm"),
  };
  const child = spawn("npm", ["run", "--silent", ...args], { cwd: ROOT, env, stdio: ["ignore", "pipe", "pipe"] });
  return { child, mark: `HOME=${folder}`, folder };
}

async function untilSaid(child: ChildProcess, pattern: RegExp): Promise<void> {
  let said = "";
  await new Promise<void>((resolve, reject) => {
    for (const stream of [child.stdout, child.stderr]) {
      stream?.on("data", (chunk) => {
        said += chunk;
        if (pattern.test(said)) resolve();
      });
    }
    child.once("exit", (code) => reject(new Error(`ended with ${code}: ${said}`)));
  });
}

describe("what is started by a script", () => {
  it.each<[what: string, args: string[], ready: RegExp]>([
    ["the demo", ["demo", "--", "--port", "0", "--bots", "4"], /http:\/\/127\.0\.0\.1:\d+/],
    ["the crash trial", ["crash", "--", "--rounds", "30"], /round 2/],
  ])("ends with it when it is told to: %s", async (_what, args, ready) => {
    const { child, mark, folder } = runScript(args);
    await untilSaid(child, ready);
    const before = descendantsOf(mark);
    expect(before.length).toBeGreaterThan(2);
    const exit = once(child, "exit");
    child.kill("SIGTERM");
    await exit;
    await vi.waitUntil(() => !before.some(isAlive) && descendantsOf(mark).length === 0, { timeout: 30_000 });
    const left = readdirSync(folder).filter((name) => name.startsWith("yellow-harbor"));
    expect(left).toEqual([]);
  });
});
