import { randomBytes } from "node:crypto";
import {
  accessSync,
  closeSync,
  constants,
  existsSync,
  fdatasyncSync,
  openSync,
  rmSync,
  statfsSync,
  statSync,
  writeSync,
} from "node:fs";
import { dirname, join } from "node:path";
import Database from "better-sqlite3";
import { DATABASE_FILE } from "../journal/files.ts";
import { schemaOf } from "../journal/open-file.ts";
import { bad, type Finding, look, ok } from "./finding.ts";

/** The folder itself, the room on its disk, how long a flush takes, and what is kept in it. */
export function dataFolderFindings(folder: string, nowMs: number): Finding[] {
  const found = statSync(folder, { throwIfNoEntry: false });
  if (found === undefined) return futureFindings(folder);
  const own = folderFinding(folder, found);
  if (own.state === "bad") return [own];
  return [own, spaceFinding(folder), flushFinding(folder), ...databaseFindings(join(folder, DATABASE_FILE), nowMs)];
}

/** What is to be made lies in the nearest folder that is there. */
function futureFindings(folder: string): Finding[] {
  const parent = dirname(folder);
  if (!existsSync(parent) && parent !== folder) return futureFindings(parent);
  try {
    accessSync(parent, constants.W_OK);
  } catch {
    const own = process.getuid?.();
    return [
      bad(
        "data folder",
        `${folder} cannot be made: ${parent} may not be written`,
        `make it, and chown ${own} ${folder}`,
      ),
    ];
  }
  return [ok("data folder", `${folder} is made at the first start`), spaceFinding(parent)];
}

function folderFinding(folder: string, { uid, mode, isDirectory }: ReturnType<typeof statSync> & object): Finding {
  const check = "data folder";
  if (!isDirectory.call(statSync(folder))) return bad(check, `${folder} is no folder`, "name another with data");
  const own = process.getuid?.();
  if (own !== undefined && own !== 0 && uid !== own)
    return bad(
      check,
      `${folder} belongs to user ${uid}, and this is ${own}`,
      `chown -R ${own} ${folder}, or run as its owner`,
    );
  if ((Number(mode) & 0o077) !== 0 && (Number(mode) & 0o1000) === 0)
    return look(check, `${folder} can be read by others, and holds the service's secret`, `chmod 700 ${folder}`);
  return ok(check, `${folder} is for its owner alone`);
}

const MIB = 1_048_576;
const LITTLE_BYTES = 1_024 * MIB;
const NONE_BYTES = 64 * MIB;

function spaceFinding(folder: string): Finding {
  const check = "disk space";
  const { bavail, bsize, blocks } = statfsSync(folder);
  const free = bavail * bsize;
  const share = Math.round((bavail / blocks) * 100);
  const text = `${gib(free)} are free, ${share} % of the disk`;
  const remedy = "make room, or keep less: journal.keepBytes, output.keepBytes";
  if (free < NONE_BYTES) return bad(check, text, remedy);
  return free < LITTLE_BYTES || share < 5 ? look(check, text, remedy) : ok(check, text);
}

const gib = (bytes: number) =>
  bytes < 1_024 * MIB ? `${Math.round(bytes / MIB)} MiB` : `${(bytes / 1_024 / MIB).toFixed(1)} GiB`;

const FLUSHES = 25;
/** Every answer to a player waits for one flush; several of this length are what a player notices. */
const SLOW_MS = 20;

function flushFinding(folder: string): Finding {
  const check = "flush";
  const file = join(folder, `flush-${randomBytes(6).toString("hex")}.tmp`);
  try {
    const handle = openSync(file, "wx", 0o600);
    const took: number[] = [];
    try {
      for (let n = 0; n < FLUSHES; n++) {
        const begin = performance.now();
        writeSync(handle, Buffer.alloc(4_096, n));
        fdatasyncSync(handle);
        took.push(performance.now() - begin);
      }
    } finally {
      closeSync(handle);
    }
    took.sort((a, b) => a - b);
    const [median = 0, slowest = 0] = [took[FLUSHES >> 1], took.at(-1)];
    const text = `a flush takes ${median.toFixed(2)} ms (median of ${FLUSHES}), ${slowest.toFixed(2)} ms at most`;
    return median > SLOW_MS
      ? look(check, text, "put the data folder on a faster disk: every answer waits for one")
      : ok(check, text);
  } catch (error) {
    return bad(
      check,
      `nothing can be written to ${folder}: ${(error as Error).message}`,
      "see who owns it, and whether its disk is mounted for writing",
    );
  } finally {
    rmSync(file, { force: true });
  }
}

/** How far the clock may be behind what was written last. */
const CLOCK_SLACK_MS = 1_000;

function databaseFindings(file: string, nowMs: number): Finding[] {
  if (!existsSync(file)) return [ok("journal", "nothing is kept yet")];
  let sqlite: Database.Database | undefined;
  try {
    sqlite = new Database(file, { readonly: true, fileMustExist: true, timeout: 2_000 });
    const { applied, known } = schemaOf(sqlite, file);
    const last = sqlite.prepare("SELECT seq, at_ms AS atMs FROM journal ORDER BY seq DESC LIMIT 1").get() as
      | { seq: number; atMs: number }
      | undefined;
    const size = `${gib(statSync(file).size)}, ${last?.seq ?? 0} ${last?.seq === 1 ? "event" : "events"}`;
    const schema =
      applied === known
        ? ok("journal", `${size}, schema ${applied}`)
        : look(
            "journal",
            `${size}, schema ${applied}; this version brings it to ${known}`,
            "run yh service check, and keep a backup, before it is started",
          );
    return [schema, clockFinding(last?.atMs ?? 0, nowMs)];
  } catch (error) {
    return [
      bad("journal", (error as Error).message, "restore a backup (yh restore), or start the version that wrote it"),
    ];
  } finally {
    sqlite?.close();
  }
}

function clockFinding(lastAtMs: number, nowMs: number): Finding {
  const aheadMs = lastAtMs - nowMs;
  if (aheadMs <= CLOCK_SLACK_MS) return ok("clock", `it is ${new Date(nowMs).toISOString()}`);
  const text = `the clock is ${Math.round(aheadMs / 1_000)} s behind the last event`;
  return look("clock", text, "set the clock (NTP); until it has caught up the service counts on from the last event");
}
