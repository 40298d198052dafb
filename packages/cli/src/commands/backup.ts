import { existsSync } from "node:fs";
import { open, rename, rm } from "node:fs/promises";
import { dirname, isAbsolute, resolve } from "node:path";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { CopyContents } from "@yellow-harbor/service";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { screenFor } from "../output/screen.ts";
import { configProblem } from "./serve.ts";

interface RestoreOptions {
  readonly config: string;
  readonly data?: string;
  readonly check?: boolean;
}

export function addBackup(program: Command): void {
  program
    .command("backup")
    .description("copy everything the service stores into one file, while it runs")
    .argument("<file>", "file to write; it must not exist yet")
    .option("-d, --data <folder>", "copy this data folder instead of asking a service; it may be in use")
    .addHelpText("after", "\nThe file holds the harbor's secret. What instances have printed is not in it.")
    .action(async (name: string, { data }: { data?: string }, command: Command) => {
      const file = resolve(name);
      if (existsSync(file)) throw ProblemError.of("usage", `${file} is there already; name another file.`);
      const { backupFolder, inspectBackup } = await import("@yellow-harbor/service");
      if (data === undefined) await fetchBackup(contextOf(command).operator, file);
      else await backupFolder(resolve(data), file);
      const contents = await inspectBackup(file);
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
    .action(async (name: string, { config, data, check }: RestoreOptions, command: Command) => {
      const { inspectBackup, restoreBackup } = await import("@yellow-harbor/service");
      const screen = screenFor(command.optsWithGlobals());
      const file = resolve(name);
      if (check) {
        const contents = await inspectBackup(file);
        screen.show({ file, ok: true, ...contents }, () => [
          `${pc.bold(file)} is whole: its events follow each other and come to a sound state.`,
          ...describe(contents),
        ]);
        return;
      }
      const folder = data === undefined ? await configuredFolder(config) : resolve(data);
      const contents = await restoreBackup(file, folder);
      screen.show({ file, folder, ...contents }, () => [
        `Restored to ${pc.bold(folder)}.`,
        ...describe(contents),
        pc.dim("next: yh serve; whoever was connected has its grace to come back"),
      ]);
    });
}

/** Nothing that looks like a backup is left behind when it did not come in whole. */
async function fetchBackup(operator: OperatorClient, file: string): Promise<void> {
  const part = `${file}.part`;
  try {
    const handle = await open(part, "w", 0o600);
    try {
      for await (const bytes of operator.backup()) await handle.write(bytes);
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

async function configuredFolder(config: string): Promise<string> {
  const { loadConfig } = await import("@yellow-harbor/service");
  const loaded = loadConfig(config);
  if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
  const { data } = loaded.config;
  return isAbsolute(data) ? data : resolve(dirname(loaded.file), data);
}

const count = (number: number, what: string) => `${number} ${what}${number === 1 ? "" : "s"}`;

function describe({ events, first, last, players, rooms, instances }: CopyContents): string[] {
  const range =
    first && last
      ? `Events ${first.seq} to ${last.seq}, ${new Date(first.atMs).toISOString()} to ${new Date(last.atMs).toISOString()}.`
      : "No events.";
  return [
    range,
    `${count(events, "event")}; at their end ${count(players, "player")}, ${count(rooms, "room")} and ${count(instances, "instance")} that had not ended.`,
  ];
}
