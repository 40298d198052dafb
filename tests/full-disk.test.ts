import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { OperatorClient, PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, TEST_CONFIG, temporaryFolder } from "../packages/service/src/testing/test-service.ts";
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
    try {
      const saying = [nextLine<number>(child, "pid"), nextLine<string>(child, "url")] as const;
      const [pid, url] = await Promise.all(saying);
      const ansel = await PlayerClient.connect({ url, name: "Ansel", build: "game-1", reconnect: { attempts: 1 } });
      const { room } = await ansel.openRoom();
      let acknowledged = -1;
      let refused: unknown;
      for (let n = 0; n < 20_000 && refused === undefined; n++) {
        await ansel.write("stones", { n, text: "x".repeat(1_500) }).then(
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
      expect((await fetch(`${url}/healthz`)).status).toBe(503);
      await expect(ansel.listRooms()).rejects.toMatchObject({ code: "journal-unavailable" });
      ansel.drop();
      const again = nextLine<string>(child, "url");
      process.kill(pid, "SIGKILL");
      const operator = new OperatorClient({ url: await again });
      const value = (await operator.room(room.id)).board.stones?.box[0] as { n: number };
      // The one that failed may or may not be there; every one before it is.
      expect([acknowledged, acknowledged + 1]).toContain(value.n);
    } finally {
      child.kill("SIGKILL");
      await once(child, "exit");
    }
  });
});
