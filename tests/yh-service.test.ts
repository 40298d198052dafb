import { spawn } from "node:child_process";
import { once } from "node:events";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { connect, createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gunzipSync } from "node:zlib";
import { PlayerClient } from "@yellow-harbor/client";
import type { Problem } from "@yellow-harbor/protocol";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { makeCertificate } from "../packages/service/src/testing/test-certificate.ts";
import { ROOT } from "./imports.ts";
import { runYh } from "./run-yh.ts";
import { SMALL_CONFIG } from "./small-config.ts";

let folder: string;
let file: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "yellow-harbor-service-"));
  file = join(folder, "harbor.yaml");
  writeFileSync(file, SMALL_CONFIG);
});
const ends: (() => Promise<unknown>)[] = [];
afterAll(async () => {
  for (const end of ends) await end();
  rmSync(folder, { recursive: true, force: true });
});

/** A service as a user starts it. */
async function start() {
  const args = [join(ROOT, "packages/cli/bin/yh.js"), "serve", "--config", file];
  const child = spawn(process.execPath, args, { stdio: ["ignore", "pipe", "inherit"] });
  const ended = once(child, "exit");
  ends.push(async () => {
    child.kill("SIGTERM");
    await ended;
  });
  let log = "";
  const url = await new Promise<string>((resolve, reject) => {
    child.once("exit", () => reject(new Error(`the service has ended: ${log}`)));
    child.stdout.on("data", (chunk) => {
      log += chunk;
      const [, found] = /"url":"([^"]+)"/.exec(log) ?? [];
      if (found) resolve(found);
    });
  });
  return { url, ended };
}

const key = () => readFileSync(join(folder, "data/operator.key"), "utf8").trim();

describe("yh service drain", () => {
  let running = "";

  it("ends the service, and has its players find the one that takes its place at another address", async () => {
    const first = await start();
    const ansel = await PlayerClient.connect({ url: first.url, name: "Ansel", build: "game-1", strict: true });
    const { room } = await ansel.openRoom({ capacity: 2 });
    const lost = new Promise<{ problem: Problem; inMs: number }>((resolve) => ansel.on("lost", resolve));
    const resumed = new Promise((resolve) => ansel.on("resumed", resolve));
    // The port of the next one is not known before it is there: a door that leads to it is.
    let next = 0;
    const door = createServer((socket) => {
      const inner = connect(next, "127.0.0.1");
      socket.pipe(inner).pipe(socket);
      for (const one of [socket, inner]) one.on("error", () => [socket, inner].map((each) => each.destroy()));
    });
    await new Promise<void>((resolve) => door.listen(0, "127.0.0.1", resolve));
    ends.unshift(async () => door.close());
    const at = `http://127.0.0.1:${(door.address() as { port: number }).port}`;
    const args = ["service", "drain", "--back-in", "2", "--at", at, "--url", first.url, "--token", key()];
    const { code, out } = await runYh(args);
    expect({ code, out }).toEqual({
      code: 0,
      out: expect.stringContaining(`1 player is told to come back in 2 s at ${at}`),
    });
    const { problem, inMs } = await lost;
    expect(problem).toMatchObject({ code: "shutting-down", retryAfterMs: 2_000, retryUrl: at });
    expect(inMs).toBeGreaterThanOrEqual(2_000);
    expect(await first.ended).toEqual([0, null]);
    const second = await start();
    running = second.url;
    next = Number(new URL(running).port);
    await resumed;
    expect(ansel.state.room?.id).toBe(room.id);
    ansel.drop();
    const { entries } = JSON.parse((await runYh(["audit", "--json", "--url", running, "--token", key()])).out);
    expect(entries).toContainEqual(expect.objectContaining({ action: "drain", result: "done" }));
  });

  it("is refused for a key that may not administer, and with what it cannot mean", async () => {
    const made = await runYh([
      "key",
      "create",
      "looker",
      "--role",
      "operate",
      "--json",
      "--url",
      running,
      "--token",
      key(),
    ]);
    const { secret } = JSON.parse(made.out);
    const refused = await runYh(["service", "drain", "--url", running, "--token", secret]);
    expect(refused).toMatchObject({ code: 5, err: expect.stringContaining("administer") });
    expect(await runYh(["service", "drain", "--back-in", "soon", "--url", running])).toMatchObject({ code: 2 });
  });
});

describe("yh service check", () => {
  it("tries a data folder of an earlier version on a copy, and says that there is no way back without a backup", async () => {
    const data = join(folder, "released");
    mkdirSync(data, { mode: 0o700 });
    const database = join(data, "harbor.sqlite");
    writeFileSync(database, gunzipSync(readFileSync(join(ROOT, "tests/releases/0.2.0.sqlite.gz"))));
    const before = readFileSync(database);
    const config = join(ROOT, "examples/tidewrights/harbor.yaml");
    const { code, out } = await runYh(["service", "check", "--config", config, "--data", data]);
    expect(code).toBe(0);
    expect(out).toMatch(/^fits {2}.*released$/m);
    expect(out).toMatch(/reads \d{3,} events and comes to \d+ players?, \d+ rooms? and \d+ instances?/);
    expect(out).toMatch(
      /from schema \d to \d: the version before cannot go on with them\. Keep a backup|stay as they are/,
    );
    expect(readFileSync(database).equals(before)).toBe(true);
  });

  it("refuses what this version cannot go on with, in words", async () => {
    const data = join(folder, "broken");
    mkdirSync(data, { mode: 0o700 });
    writeFileSync(join(data, "harbor.sqlite"), "this is no database, however long it may be");
    const { code, err } = await runYh(["service", "check", "--config", file, "--data", data]);
    expect(code).not.toBe(0);
    expect(err).toContain("data-unusable");
    const empty = await runYh(["service", "check", "--config", file, "--data", join(folder, "nothing")]);
    expect(empty).toMatchObject({ code: 0, out: expect.stringContaining("has nothing yet") });
  });
});

describe("yh doctor --self", () => {
  it("looks at all that a service stands on, and fails when something has to be mended", async () => {
    const well = await runYh(["doctor", "--self", "--config", file, "--set", "data=elsewhere"]);
    expect(well).toMatchObject({ code: 0, out: expect.stringContaining("it does not run") });
    const { certFile, keyFile } = makeCertificate(folder);
    const tls = `listen={ port: 0, url: "https://harbor.example", tls: { certFile: ${certFile}, keyFile: ${keyFile} } }`;
    const ill = await runYh(["doctor", "--self", "--config", file, "--set", tls]);
    expect(ill.code).toBe(7);
    expect(ill.out).toMatch(/^bad {3}certificate +.* is not for harbor\.example/m);
    expect(ill.out).toContain("have to be mended");
  });
});
