import { spawn } from "node:child_process";
import { closeSync, cpSync, fsyncSync, mkdtempSync, openSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { startHelper } from "../processes/child.ts";
import type { Row } from "../row.ts";
import { startBenchService, writeBenchConfig } from "../service.ts";

const [ROOMS, MEMBERS] = [10_000, 4];
const READER = fileURLToPath(new URL("../processes/read-process.js", import.meta.url));

const roomy = (config: string) =>
  config.replace("framesPerSecond: 100000", "framesPerSecond: 100000, limit: 100000, graceMs: 86400000");

/** From the start of the process to ready after a kill, beside a process that only reads the same bytes. */
export const recover: Row = {
  name: "recover",
  about: `start to ready with ${ROOMS} rooms and ${ROOMS * MEMBERS} players; ceiling: a process that reads the same bytes from SQLite`,
  unit: "ms",
  goal: 4,
  higherIsBetter: false,
  rounds: 7,
  prepare: async () => {
    const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-recover-"));
    const filled = join(folder, "filled");
    const filler = startHelper("fill-process");
    await filler.ask({ config: writeBenchConfig(folder, roomy), folder: filled, rooms: ROOMS, membersEach: MEMBERS });
    await filler.end();
    return {
      ours: async () => {
        const service = await startBenchService(roomy, (data) => copyToDisk(filled, data));
        await service.kill();
        return service.readyMs;
      },
      ceiling: () => readBytes(join(filled, "harbor.sqlite")),
      whereTheTimeGoes: () => "loading modules, then parsing the snapshot, then writing down that nobody is connected",
      end: async () => rmSync(folder, { recursive: true, force: true }),
    };
  },
};

/** A copy that is on the disk: a service's first commit must not wait for the copying. */
function copyToDisk(from: string, to: string): void {
  cpSync(from, to, { recursive: true });
  const file = openSync(join(to, "harbor.sqlite"), "r+");
  fsyncSync(file);
  closeSync(file);
}

function readBytes(file: string): Promise<number> {
  const begin = performance.now();
  return new Promise((resolve, reject) =>
    spawn(process.execPath, [READER, file], { stdio: ["ignore", "ignore", "inherit"] }).once("exit", (code) =>
      code === 0 ? resolve(performance.now() - begin) : reject(new Error(`the reader ended with ${code}`)),
    ),
  );
}
