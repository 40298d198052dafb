import { copyFile, readdir, rm, stat, truncate } from "node:fs/promises";
import { join } from "node:path";
import type { OutputStream } from "./driver.ts";

export interface OutputLimits {
  /** Bytes of each stream of an instance after which it is put aside, in place of what was put aside before. */
  readonly keepBytes: number;
  /** How long the output of an instance is kept after the last word of it. */
  readonly keepMs: number;
}

const FILES: Readonly<Record<OutputStream, string>> = { out: "output.log", err: "errors.log" };

export const outputName = (stream: OutputStream): string => FILES[stream];

/** What was put aside when the file grew too long. */
export const formerOutput = (file: string): string => `${file}.1`;

/**
 * Keeps what instances print within bounds. A process goes on writing to the file that it was given, so a long one is
 * copied aside and emptied; what is printed between the two is lost, a line or two at worst.
 */
export async function sweepOutput(
  folder: string,
  live: ReadonlySet<string>,
  { keepBytes, keepMs }: OutputLimits,
  nowMs: number,
): Promise<void> {
  const instances = await readdir(folder).catch(() => []);
  for (const instance of instances) {
    const own = join(folder, instance);
    if (live.has(instance)) {
      for (const name of Object.values(FILES)) await putAside(join(own, name), keepBytes);
    } else if (nowMs - (await lastWord(own)) > keepMs) await rm(own, { recursive: true, force: true });
  }
}

async function putAside(file: string, keepBytes: number): Promise<void> {
  const size = await stat(file).then(
    (found) => found.size,
    () => 0,
  );
  if (size <= keepBytes) return;
  await copyFile(file, formerOutput(file));
  await truncate(file, 0);
}

/** When something was last written in a folder, in milliseconds since 1970. */
async function lastWord(folder: string): Promise<number> {
  const names = await readdir(folder).catch(() => []);
  const times = await Promise.all(
    [".", ...names].map((name) =>
      stat(join(folder, name)).then(
        ({ mtimeMs }) => mtimeMs,
        () => 0,
      ),
    ),
  );
  return Math.max(...times);
}
