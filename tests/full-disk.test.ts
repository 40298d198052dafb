import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import {
  endAll,
  isAlive,
  startTestService,
  TEST_CONFIG,
  temporaryFolder,
} from "../packages/service/src/testing/test-service.ts";
import { ROOT } from "./imports.ts";

afterEach(endAll);

const UNSHARE = ["--map-root-user", "--mount", "--kill-child"];

/** Whether this machine lets us have a small file system of our own. */
function mayMount(folder: string): boolean {
  try {
    execFileSync("unshare", [...UNSHARE, "mount", "-t", "tmpfs", "tmpfs", folder], { stdio: "ignore" });
    return true;
  } catch {
    return false;
  }
}

/** Two lives of a service on a file system of 3 MiB, which has grown before the second one. */
const script = (mount: string, yh: string) => `
mount -t tmpfs -o size=3m tmpfs ${mount}
${process.execPath} ${yh} &
echo "{\\"pid\\": $!}"
wait $!
mount -o remount,size=64m ${mount}
exec ${process.execPath} ${yh}
`;

/** A service whose data folder can only be read. */
const readOnlyScript = (data: string, yh: string) => `
mount --bind ${data} ${data}
mount -o remount,bind,ro ${data}
exec ${process.execPath} ${yh}
`;

/** Resolves to a value of the next line that has it. */
function nextLine<T>(child: ChildProcess, name: string): Promise<T> {
  return new Promise((resolve, reject) => {
    let rest = "";
    const read = (chunk: Buffer) => {
      const lines = (rest + chunk).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) {
        const found = (JSON.parse(line) as Record<string, T>)[name];
        if (found === undefined) continue;
        child.stdout?.off("data", read);
        return resolve(found);
      }
    };
    child.stdout?.on("data", read);
    child.once("exit", (code) => reject(new Error(`ended with ${code} before it said ${name}`)));
  });
}

/** Runs a script in a mount name space of its own; resolves with what it said and how it ended. */
async function runApart(text: string): Promise<{ code: number | null; said: string }> {
  const child = spawn("unshare", [...UNSHARE, "sh", "-c", text], { stdio: ["ignore", "pipe", "pipe"] });
  let said = "";
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (chunk) => (said += chunk));
  const [code] = (await once(child, "close")) as [number | null];
  return { code, said };
}

const folder = temporaryFolder();
mkdirSync(folder, { recursive: true });

describe("a disk that is full", () => {
  // Where no file system may be mounted, journal.test.ts has a database that says it is full.
  it.skipIf(!mayMount(folder))("ends nothing but the taking of commands, and loses nothing", async () => {
    const mount = join(temporaryFolder(), "small");
    mkdirSync(mount, { recursive: true });
    const file = join(temporaryFolder(), "harbor.yaml");
    mkdirSync(join(file, ".."), { recursive: true });
    writeFileSync(
      file,
      TEST_CONFIG().replace("silent", "info").replace("framesPerSecond: 1000", "framesPerSecond: 100000"),
    );
    const yh = `${join(ROOT, "packages/cli/bin/yh.js")} serve --config ${file} --data ${mount}/data --port 0`;
    const child = spawn("unshare", [...UNSHARE, "sh", "-c", script(mount, yh)], {
      stdio: ["ignore", "pipe", "ignore"],
    });
    let pid = 0;
    try {
      const started = [nextLine<number>(child, "pid"), nextLine<string>(child, "url")] as const;
      const [first, url] = await Promise.all(started);
      pid = first;
      const ansel = await PlayerClient.connect({ url, name: "Ansel", build: "game-1", reconnect: { attempts: 1 } });
      const { room } = await ansel.openRoom();
      let acknowledged = -1;
      let refused: unknown;
      for (let n = 0; n < 20_000 && refused === undefined; n++) {
        await ansel.board.set("stones", { n, text: "x".repeat(1_500) }).then(
          () => {
            acknowledged = n;
          },
          (error: unknown) => {
            refused = error;
          },
        );
      }
      expect(refused).toMatchObject({ code: "journal-unavailable" });
      expect(acknowledged).toBeGreaterThan(100);
      ansel.drop();
      // Opening the journal anew may free a little room, so it is healthy again, or not; it goes on in any case.
      expect([200, 503]).toContain((await fetch(`${url}/healthz`)).status);
      const again = nextLine<string>(child, "url");
      process.kill(pid, "SIGKILL");
      const operator = new OperatorClient({ url: await again });
      const value = (await operator.room(room.id)).board.stones?.box[0] as { n: number };
      // The one that failed may or may not be there; every one before it is.
      expect([acknowledged, acknowledged + 1]).toContain(value.n);
    } finally {
      if (pid > 0 && isAlive(pid)) process.kill(pid, "SIGKILL");
      child.kill("SIGKILL");
      await once(child, "exit");
    }
  });

  it.skipIf(!mayMount(folder))(
    "is no end of the process while instances print, and is told as what it is",
    async () => {
      const mount = join(temporaryFolder(), "small");
      mkdirSync(mount, { recursive: true });
      const file = join(temporaryFolder(), "harbor.yaml");
      const printing = "require('node:http'); setInterval(() => console.log('a gull cries '.repeat(4000)), 5)";
      writeFileSync(
        file,
        TEST_CONFIG()
          .replace("silent", "info")
          .replace(
            /plain: \{.*\}/,
            `plain: { command: node, args: ["-e", "${printing}"], ready: port, watch: { joined: "^(?<name>.+) joined$" } }`,
          )
          .concat("output: { keepBytes: 4096 }\n"),
      );
      const yh = `${join(ROOT, "packages/cli/bin/yh.js")} serve --stop-instances --config ${file} --data ${mount}/data --port 0`;
      const fill = `mount -t tmpfs -o size=3m tmpfs ${mount}\nexec ${process.execPath} ${yh}`;
      // With process ids of its own, so that nothing of it is left when it is killed.
      const child = spawn("unshare", [...UNSHARE, "--pid", "--fork", "--mount-proc", "sh", "-c", fill], {
        stdio: ["ignore", "pipe", "ignore"],
      });
      try {
        const url = await nextLine<string>(child, "url");
        const come = (name: string) => PlayerClient.connect({ url, name, build: "game-1", reconnect: { attempts: 1 } });
        const [ansel, brisa] = [await come("Ansel"), await come("Brisa")];
        const { room } = await ansel.openRoom();
        await brisa.joinRoom({ room: room.id });
        await ansel.pickLevel("brine-gate");
        await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
        await ansel.start();
        let refused: unknown;
        for (let n = 0; n < 20_000 && refused === undefined; n++) {
          await ansel.board.set("stones", { n, text: "x".repeat(1_500) }).catch((error: unknown) => {
            refused = error;
          });
        }
        expect(refused).toMatchObject({ code: "journal-unavailable" });
        // Before the journal is tried again.
        const health = await fetch(`${url}/healthz`);
        expect([health.status, (await health.json()).detail]).toEqual([503, expect.stringMatching(/disk.*full/)]);
        // Trimming and watching go on beside it, and fail; nobody is there to catch that but the service itself. What its
        // attempts free may be enough to go on with.
        await new Promise((resolve) => setTimeout(resolve, 1_500));
        expect([200, 503]).toContain((await fetch(`${url}/healthz`)).status);
        for (const player of [ansel, brisa]) player.drop();
      } finally {
        child.kill("SIGKILL");
        await once(child, "exit");
      }
    },
  );
});

describe("a data folder that can only be read", () => {
  it.skipIf(!mayMount(folder))("is refused at the start, with what is wrong", async () => {
    const data = join(temporaryFolder(), "data");
    mkdirSync(data, { recursive: true });
    const file = join(data, "..", "harbor.yaml");
    writeFileSync(file, TEST_CONFIG());
    const yh = `${join(ROOT, "packages/cli/bin/yh.js")} serve --config ${file} --data ${data} --port 0`;
    // Once as a new folder, once as one that a service has used.
    expect(await runApart(readOnlyScript(data, yh))).toMatchObject({
      code: 6,
      said: expect.stringContaining("read-only"),
    });
    const service = await startTestService(undefined, { data });
    await service.stop();
    expect(await runApart(readOnlyScript(data, yh))).toMatchObject({
      code: 6,
      said: expect.stringContaining("read-only"),
    });
  });
});
