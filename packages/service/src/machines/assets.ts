import { readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import type { RunAs } from "./run-as.ts";

/** So deep it is looked, and at so many entries: what is below belongs to whoever owns what is above, as a rule. */
const DEPTH = 2;
const ENTRIES_MAX = 1_000;

/**
 * Why a folder of assets is none that only the game's makers can change: what an instance can write, the next one reads.
 * Undefined when it is fine, and where instances run as the service itself, since then nothing keeps them apart.
 */
export function whyAssetsWritable(folder: string, runAs: RunAs | undefined): string | undefined {
  if (runAs === undefined) return undefined;
  try {
    const found = firstWritable(folder, runAs, DEPTH);
    return (
      found &&
      `${found} can be written by ${runAs.name}, and assets are to be read only; take the right away (chmod -R go-w, chown)`
    );
  } catch (error) {
    return `the folder of assets ${folder} cannot be looked at (${(error as NodeJS.ErrnoException).code})`;
  }
}

function firstWritable(path: string, runAs: RunAs, depth: number): string | undefined {
  const stat = statSync(path);
  if (mayWrite(stat, runAs)) return path;
  if (depth === 0 || !stat.isDirectory()) return undefined;
  for (const entry of readdirSync(path, { withFileTypes: true }).slice(0, ENTRIES_MAX)) {
    // Where a link leads is looked at where that is.
    if (entry.isSymbolicLink()) continue;
    const found = firstWritable(join(path, entry.name), runAs, depth - 1);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** By the mode of the file (chmod(2)): of its owner, its group, or everybody. */
function mayWrite({ uid, gid, mode }: { uid: number; gid: number; mode: number }, runAs: RunAs): boolean {
  if (uid === runAs.uid) return (mode & 0o200) !== 0;
  if (gid === runAs.gid) return (mode & 0o020) !== 0;
  return (mode & 0o002) !== 0;
}
