import { existsSync } from "node:fs";
import { open, rename, rm } from "node:fs/promises";
import { resolve } from "node:path";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { CopyContents } from "@yellow-harbor/service";
import type { Command } from "commander";
import pc from "picocolors";
import { dataFolderOf, overridesOf, readConfig } from "../config/read-config.ts";
import { contextOf } from "../context.ts";
import { firstLineOf } from "../first-line.ts";
import { counted } from "../output/counted.ts";
import { waitingFor } from "../output/progress.ts";
import { screenFor } from "../output/screen.ts";

interface BackupOptions {
  readonly data?: string;
  readonly passphraseFile?: string;
}

interface RestoreOptions {
  readonly config: string;
  readonly data?: string;
  readonly check?: boolean;
  readonly passphraseFile?: string;
}

const PASSPHRASE = ["--passphrase-file <file>", "file with the passphrase, 12 characters or more"] as const;

function passphraseIn(file: string | undefined): string | undefined {
  if (file === undefined) return undefined;
  const line = firstLineOf(file, "--passphrase-file");
  if (line.length >= 12) return line;
  throw ProblemError.of("usage", `The first line of ${file} has ${line.length} characters; expected 12 or more.`);
}

export function addBackup(program: Command): void {
  program
    .command("backup")
    .description("copy everything the service stores into one file, while it runs")
    .argument("<file>", "file to write; it must not exist yet")
    .option("-d, --data <folder>", "copy this data folder instead of asking a service; it may be in use")
    .option(...PASSPHRASE)
    .addHelpText(
      "after",
      "\nWithout a passphrase the harbor's secret is left out: after a restore players and instances have to come anew.\nWith one it is in the file, which is sealed. What instances have printed is in neither.",
    )
    .action(async (name: string, { data, passphraseFile }: BackupOptions, command: Command) => {
      const passphrase = passphraseIn(passphraseFile);
      const file = resolve(name);
      if (existsSync(file)) throw ProblemError.of("usage", `${file} is there already; name another file.`);
      const { backupFolder, inspectBackup } = await import("@yellow-harbor/service");
      await waitingFor("Copying", () =>
        data === undefined
          ? fetchBackup(contextOf(command).operator, file, passphrase)
          : backupFolder(resolve(data), file, passphrase),
      );
      const contents = await waitingFor("Looking through the copy", () => inspectBackup(file, passphrase));
      screenFor(command.optsWithGlobals()).show({ file, ...contents }, () => [
        `Backed up to ${pc.bold(file)}.`,
        ...describe(contents),
        pc.dim(`next: yh restore ${name} --check looks through it again; without --check it is put back`),
      ]);
    });
}

export function addRestore(program: Command): void {
  program
    .command("restore")
    .description("put a backup where a service can start from it; nothing is overwritten")
    .argument("<file>", "file that yh backup wrote")
    .option("-c, --config <file>", "configuration file that names the data folder", "harbor.yaml")
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .option("--check", "only verify the backup")
    .option(...PASSPHRASE)
    .action(async (name: string, { config, data, check, passphraseFile }: RestoreOptions, command: Command) => {
      const { inspectBackup, restoreBackup } = await import("@yellow-harbor/service");
      const screen = screenFor(command.optsWithGlobals());
      const file = resolve(name);
      const passphrase = passphraseIn(passphraseFile);
      if (check) {
        const contents = await waitingFor("Looking through the backup", () => inspectBackup(file, passphrase));
        screen.show({ file, ok: true, ...contents }, () => [
          `${pc.bold(file)} is whole: its events follow each other and come to a sound state.`,
          ...describe(contents),
        ]);
        return;
      }
      const folder = data === undefined ? await configuredFolder(config) : resolve(data);
      const contents = await waitingFor("Restoring", () => restoreBackup(file, folder, passphrase));
      screen.show({ file, folder, ...contents }, () => [
        `Restored to ${pc.bold(folder)}.`,
        ...describe(contents),
        pc.dim(
          contents.hasSecret
            ? "next: yh serve; whoever was connected has its grace to come back"
            : "next: yh serve; players and agents come anew, with new tokens, and what ran before is not taken back",
        ),
      ]);
    });
}

/** Nothing that looks like a backup is left behind when it did not come in whole. */
async function fetchBackup(operator: OperatorClient, file: string, passphrase: string | undefined): Promise<void> {
  const part = `${file}.part`;
  try {
    const handle = await open(part, "w", 0o600);
    try {
      for await (const bytes of operator.backup(passphrase)) await handle.write(bytes);
      await handle.sync();
    } finally {
      await handle.close();
    }
    await rename(part, file);
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
}

const configuredFolder = async (file: string) => dataFolderOf(await readConfig(file, await overridesOf()));

function describe({ hasSecret, events, first, last, players, rooms, instances }: CopyContents): string[] {
  const range =
    first && last
      ? `Events ${first.seq} to ${last.seq}, ${new Date(first.atMs).toISOString()} to ${new Date(last.atMs).toISOString()}.`
      : "No events.";
  return [
    range,
    `${counted(events, "event")}; at their end ${counted(players, "player")}, ${counted(rooms, "room")} and ${counted(instances, "instance")} that had not ended.`,
    hasSecret ? "It has the harbor's secret." : "The harbor's secret is not in it.",
  ];
}
