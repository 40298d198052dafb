import { existsSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { invariantViolations } from "@yellow-harbor/core";
import Database from "better-sqlite3";
import { rulesOf } from "../config/rules.ts";
import type { Config } from "../config/schema.ts";
import { type CopyContents, copyDatabase, inspectCopy } from "../history/copies.ts";
import { DATABASE_FILE } from "../journal/files.ts";
import { schemaOf } from "../journal/open-file.ts";
import { openSqliteHarbor } from "../journal/sqlite-harbor.ts";
import { codeKeyOf } from "../keys/code-key.ts";
import { recoverHarbor } from "../runtime/recover.ts";
import { SERVICE_VERSION } from "../version.ts";

export interface UpgradeCheck {
  readonly version: string;
  /** Schema of the file, and the one that this version brings it to. */
  readonly schema: { readonly file: number; readonly version: number };
  readonly contents: CopyContents;
  /** How long a start takes to have all of it again, in milliseconds. */
  readonly recoveryMs: number;
}

/**
 * Tries on a copy what a start of this version would do with a data folder and a configuration: bring the file to its
 * schema, read every event, come to a state in which nothing is that must never be. The folder is only read, also while
 * a service of another version uses it.
 */
export async function upgradeCheck(dataFolder: string, config: Config): Promise<UpgradeCheck | undefined> {
  const file = join(dataFolder, DATABASE_FILE);
  if (!existsSync(file)) return undefined;
  const folder = mkdtempSync(join(tmpdir(), "yellow-harbor-check-"));
  try {
    const copy = join(folder, DATABASE_FILE);
    copyDatabase(file, copy, { withSecret: true });
    const schema = schemaIn(copy);
    const contents = inspectCopy(copy);
    const begin = performance.now();
    const kept = await openSqliteHarbor(folder);
    try {
      const harbor = await recoverHarbor(rulesOf(config, codeKeyOf(kept.secret)), kept);
      const [fault] = invariantViolations(harbor.state);
      if (fault !== undefined) throw new Error(`its state cannot be relied on: ${fault}`);
    } finally {
      await kept.close();
    }
    return { version: SERVICE_VERSION, schema, contents, recoveryMs: Math.round(performance.now() - begin) };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function schemaIn(file: string): UpgradeCheck["schema"] {
  const sqlite = new Database(file, { readonly: true });
  try {
    const { applied, known } = schemaOf(sqlite, file);
    return { file: applied, version: known };
  } finally {
    sqlite.close();
  }
}
