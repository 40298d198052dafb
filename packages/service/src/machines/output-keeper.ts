import { open, readdir, rm, stat, writeFile } from "node:fs/promises";
import { join } from "node:path";
import type { OutputStream } from "./driver.ts";

export interface OutputLimits {
  /** Size at which the log of each stream of an instance is rotated, replacing the rotated log before. */
  readonly keepBytes: number;
  /** How long the output of an instance is kept after the last word of it. */
  readonly keepMs: number;
}

const FILES: Readonly<Record<OutputStream, string>> = { out: "output.log", err: "errors.log" };

export const outputName = (stream: OutputStream): string => FILES[stream];

/** What was put aside when the file grew too long. */
export const formerOutput = (file: string): string => `${file}.1`;

/** Says how many bytes stood before what was put aside: whoever had read so far finds its place by it. */
export const cutNote = (file: string): string => `${file}.1.cut`;

/**
 * Keeps what running instances print within bounds. A process goes on writing to the file that it was given, so the end
 * of a long one is copied aside and the file emptied; what is printed between the two is lost, a line or two at worst.
 */
export async function trimOutput(
  folder: string,
  live: Iterable<string>,
  { keepBytes }: Pick<OutputLimits, "keepBytes">,
): Promise<void> {
  for (const instance of live) {
    for (const name of Object.values(FILES)) await startDraining(join(folder, instance, name), keepBytes);
  }
}

/** Removes the output of instances that ended long ago; what is left of the younger ones is brought within bounds. */
export async function sweepOutput(
  folder: string,
  live: ReadonlySet<string>,
  limits: OutputLimits,
  nowMs: number,
): Promise<void> {
  const instances = await readdir(folder).catch(() => []);
  for (const instance of instances) {
    if (live.has(instance)) continue;
    const own = join(folder, instance);
    if (nowMs - (await lastWord(own)) > limits.keepMs) await rm(own, { recursive: true, force: true });
    else await trimOutput(folder, [instance], limits);
  }
}

const COPY_AT_ONCE = 1_048_576;

/** Of a file that has grown too long its last `keepBytes` are put aside, however long it has become. */
async function startDraining(path: string, keepBytes: number): Promise<void> {
  const size = await stat(path).then(
    (found) => found.size,
    () => 0,
  );
  if (size <= keepBytes) return;
  const from = await open(path, "r+");
  await writeFile(cutNote(path), String(size - keepBytes), { mode: 0o600 }).catch(() => undefined);
  try {
    const to = await open(formerOutput(path), "w", 0o600);
    try {
      const buffer = Buffer.allocUnsafe(Math.min(COPY_AT_ONCE, keepBytes));
      for (let at = size - keepBytes; at < size; ) {
        const { bytesRead } = await from.read(buffer, 0, Math.min(buffer.length, size - at), at);
        if (bytesRead === 0) break;
        await to.write(buffer, 0, bytesRead);
        at += bytesRead;
      }
    } finally {
      await to.close();
      // Also when the disk is too full for a copy: an output that only grows would fill it for good.
      await from.truncate(0);
    }
  } finally {
    await from.close();
  }
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
