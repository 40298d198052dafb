import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { PACKAGE_FOLDER } from "../package-folder.ts";

export const MIGRATIONS = join(PACKAGE_FOLDER, "migrations");

/** Schemas from before files of theirs had to be read. The first migration leads to the next number. */
export const BEFORE_FIRST = 3;

/** Number of the schema that files are brought to. */
export function knownSchema(): number {
  if (!existsSync(MIGRATIONS)) throw new Error(`the migrations are missing: ${MIGRATIONS}`);
  const { entries } = JSON.parse(readFileSync(join(MIGRATIONS, "meta/_journal.json"), "utf8")) as { entries: object[] };
  return BEFORE_FIRST + entries.length;
}
