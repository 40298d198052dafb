import { chmodSync, writeFileSync } from "node:fs";
import { resolve } from "node:path";

/** In the data folder: a key that may do everything, for its owner alone. */
const KEY_FILE = "operator.key";

/** Writes the key of a data folder beside its database; returns where it is. */
export function writeKeyFile(dataFolder: string, key: string): string {
  const file = resolve(dataFolder, KEY_FILE);
  writeFileSync(file, `${key}\n`, { mode: 0o600 });
  // It may have been there, with another mode.
  chmodSync(file, 0o600);
  return file;
}
