import { createReadStream, createWriteStream, existsSync, rmSync } from "node:fs";
import { isAbsolute, join, resolve } from "node:path";
import { pipeline } from "node:stream/promises";
import { risksOf } from "./config/risks.ts";
import type { Config } from "./config/schema.ts";
import type { CopyContents } from "./history/copies.ts";
import { DATABASE_FILE } from "./journal/files.ts";
import { OpenError, openSqliteHarbor } from "./journal/sqlite-harbor.ts";
import { operatorTokenOf } from "./keys/operator-token.ts";
import { type RunningService, type ServeOptions, StartError } from "./start.ts";
import { checkWorkers } from "./workers/check-workers.ts";

/** Starts the service. Throws {@link StartError} when the data folder or the port cannot be had. */
export async function serve(options: ServeOptions): Promise<RunningService> {
  const { config, folder } = options;
  refuseRisks(config, options.acceptRisks ?? []);
  if (options.workers !== undefined) checkWorkers(options.workers, config);
  const dataFolder = isAbsolute(config.data) ? config.data : resolve(folder, config.data);
  const opening = openHarbor(dataFolder);
  // Awaited below; a failure meanwhile must not count as unhandled.
  opening.catch(() => undefined);
  // The journal's thread opens the file while this one loads what it will need.
  const { assemble } = await import("./assemble.ts");
  return assemble(options, dataFolder, opening);
}

function refuseRisks(config: Config, accepted: readonly string[]): void {
  const open = risksOf(config, { isRoot: process.getuid?.() === 0 }).filter(({ name }) => !accepted.includes(name));
  if (open.length === 0) return;
  const all = open.map(({ name, text }) => `${name}: ${text}`).join("; ");
  const flags = open.map(({ name }) => `--accept-risk ${name}`).join(" ");
  throw new StartError(
    "start-refused",
    `The service is not started so: ${all}. Whoever knows better starts it with ${flags}.`,
  );
}

async function openHarbor(dataFolder: string) {
  try {
    return await openSqliteHarbor(dataFolder);
  } catch (error) {
    if (error instanceof OpenError) throw new StartError(error.code, error.message);
    throw error;
  }
}

/** The operator's token of a data folder. Throws {@link StartError} when no service has run there yet. */
export async function readOperatorToken(folder: string): Promise<string> {
  return operatorTokenOf(await secretOf(folder));
}

/** The token of the agent of a machine. Throws {@link StartError} when no service has run there yet. */
export async function readGroupToken(folder: string, harbor: string, group: string, days: number): Promise<string> {
  const { Tokens } = await import("./keys/tokens.ts");
  return new Tokens(await secretOf(folder), harbor, Date.now).signGroupToken(group, days);
}

/** Prints the token of a machine's agent. */
export async function readAgentToken(folder: string, harbor: string, machine: string, days: number): Promise<string> {
  const { Tokens } = await import("./keys/tokens.ts");
  return new Tokens(await secretOf(folder), harbor, Date.now).signAgentToken(machine, days);
}

async function secretOf(folder: string): Promise<Uint8Array> {
  const { readSecret } = await import("./journal/read-secret.ts");
  const secret = readSecret(folder);
  if (secret === undefined)
    throw new StartError("data-unusable", `No service has run in ${folder} yet; start it once with yh serve.`);
  return secret;
}

/** Looks through a backup. Throws {@link StartError} when it cannot be relied on, or is sealed with another passphrase. */
export async function inspectBackup(file: string, passphrase?: string): Promise<CopyContents> {
  const { inspectCopy } = await import("./history/copies.ts");
  return withOpened(file, passphrase, inspectCopy);
}

/** Puts a backup into a data folder that has nothing yet. Throws {@link StartError} when that cannot be. */
export async function restoreBackup(file: string, folder: string, passphrase?: string): Promise<CopyContents> {
  const { restoreCopy } = await import("./history/copies.ts");
  return withOpened(file, passphrase, (opened) => restoreCopy(opened, folder));
}

/** Backs up a data folder beside the service that may use it. Throws {@link StartError} when it cannot be read. */
export async function backupFolder(folder: string, file: string, passphrase?: string): Promise<void> {
  const { copyDatabase, keepOnDisk } = await import("./history/copies.ts");
  const withSecret = passphrase !== undefined;
  const copy = withSecret ? `${file}.open` : file;
  try {
    orStartError(() => copyDatabase(join(folder, DATABASE_FILE), copy, { withSecret }));
    if (withSecret) await seal(copy, file, passphrase);
    keepOnDisk(file);
  } finally {
    if (withSecret) rmSync(copy, { force: true });
  }
}

async function seal(from: string, to: string, passphrase: string): Promise<void> {
  const { sealing } = await import("./history/sealing.ts");
  await pipeline(createReadStream(from), sealing(passphrase), createWriteStream(to, { flags: "wx", mode: 0o600 }));
}

/** Does something with a backup, opened beside it where it is sealed, and takes that away again. */
async function withOpened<T>(file: string, passphrase: string | undefined, work: (file: string) => T): Promise<T> {
  const { isSealed, unseal } = await import("./history/sealing.ts");
  if (!existsSync(file) || !isSealed(file)) return orStartError(() => work(file));
  if (passphrase === undefined) {
    const detail = `${file} is sealed; give the file with its passphrase in --passphrase-file.`;
    throw new StartError("passphrase-needed", detail);
  }
  const opened = `${file}.open`;
  try {
    await unseal(file, passphrase, opened);
    return work(opened);
  } catch (error) {
    throw asStartError(error);
  } finally {
    rmSync(opened, { force: true });
  }
}

function orStartError<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw asStartError(error);
  }
}

const KEPT_CODES = ["data-locked", "passphrase-wrong"] as const;

function asStartError(error: unknown): StartError {
  const { code, message } = error as { code?: unknown; message: string };
  return new StartError(KEPT_CODES.find((kept) => kept === code) ?? "data-unusable", message);
}
