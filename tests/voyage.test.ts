import { spawn } from "node:child_process";
import { createServer } from "node:net";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, isAlive, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";
import { runNode } from "./run-yh.ts";

const DEMO = join(ROOT, "examples/tidewrights/dist/demo/main.js");

afterEach(endAll);

describe("the demo", () => {
  it("plays one voyage, every step of it, and prints one JSON object and nothing else", async () => {
    const { code, out } = await runNode([DEMO, "--once", "--json", "--port", "0"]);
    const report = JSON.parse(out);
    expect(report.steps.filter((step: { ok: boolean }) => !step.ok)).toEqual([]);
    expect(report).toMatchObject({ ok: true, room: { level: "brine-gate" }, instance: { exitCode: 0 } });
    expect(report.steps.map((step: { name: string }) => step.name)).toEqual([
      ...["connect", "refuse-misfits", "open-room", "join-by-code", "share", "pick-level", "ready-and-start"],
      ...["travel", "board", "play", "party", "look-on", "leave", "retire"],
    ]);
    expect(isAlive(report.instance.pid)).toBe(false);
    expect(code).toBe(0);
  });

  it("says in one line that a port is taken, and what to do", async () => {
    const squatter = createServer();
    const port = await new Promise<number>((resolve) =>
      squatter.listen(0, "127.0.0.1", () => resolve((squatter.address() as { port: number }).port)),
    );
    const { code, err, out } = await runNode([DEMO, "--port", String(port)], { env: { YH_DATA: temporaryFolder() } });
    squatter.close();
    expect({ code, out }).toEqual({ code: 6, out: "" });
    expect(err.trim().split("\n")).toEqual([
      `Port ${port} on 127.0.0.1 is taken; stop what listens there, or choose another with --port.`,
    ]);
  });

  it("refuses options that are none, with what there is", async () => {
    expect(await runNode([DEMO, "--port", "99999"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("0 to 65535"),
    });
    expect(await runNode([DEMO, "--twice"])).toMatchObject({ code: 2, err: expect.stringContaining("--once") });
  });

  it("tells its story, and ends all that it started within five seconds of Ctrl-C", async () => {
    const child = spawn(process.execPath, [DEMO, "--port", "0", "--bots", "4"], {
      stdio: ["ignore", "pipe", "inherit"],
      // Another demo may be tried at the same time.
      env: { ...process.env, YH_DATA: temporaryFolder() },
    });
    let told = "";
    const pids = new Set<number>();
    await new Promise<void>((resolve, reject) => {
      child.once("exit", () => reject(new Error(`the demo ended early:\n${told}`)));
      child.stdout.on("data", (chunk: Buffer) => {
        told += chunk;
        for (const [, pid] of told.matchAll(/is started as process (\d+)/g)) pids.add(Number(pid));
        if (/plays on i_/.test(told)) resolve();
      });
    });
    expect(told.split("\n")[0]).toMatch(/^Yellow Harbor is at http:\/\/127\.0\.0\.1:\d+/);
    expect(told).toMatch(/opens room \w{5} for 3 and is its host/);
    const begin = Date.now();
    const ended = new Promise<number | null>((resolve) => child.once("exit", resolve));
    child.kill("SIGINT");
    expect(await ended).toBe(0);
    expect(Date.now() - begin).toBeLessThan(5_000);
    expect(pids.size).toBeGreaterThan(0);
    expect([...pids].filter(isAlive)).toEqual([]);
  });
});
