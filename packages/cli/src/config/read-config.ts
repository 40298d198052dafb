import { resolve } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import type { LoadedConfig, Override } from "@yellow-harbor/service";
import { type Command, Option } from "commander";

type Loaded = Extract<LoadedConfig, { ok: true }>;

export const DEFAULT_FILE = "harbor.yaml";

/** Values that take the place of those in the file, as flags of whatever reads it. */
export const settingOption = () =>
  new Option("--set <path=value...>", "a value in the place of one in the file, such as pools.sluice.max=40");

/** Adds `--config` and `--set` to a command. */
export const withConfigOptions = (command: Command): Command =>
  command
    .addOption(new Option("-c, --config <file>", "configuration file").env("YH_CONFIG").default(DEFAULT_FILE))
    .addOption(settingOption());

/** Values of the environment, then those of flags. Throws a problem when one of them names nothing. */
export async function overridesOf(
  settings: readonly string[] = [],
  more: readonly Override[] = [],
): Promise<Override[]> {
  const { overridesFrom } = await import("@yellow-harbor/service");
  const found = overridesFrom(process.env, settings);
  if ("fault" in found) throw ProblemError.of("config-invalid", found.fault);
  return [...found.overrides, ...more];
}

/** The configuration with all that takes the place of its values. Throws a problem with the first fault. */
export async function readConfig(file: string, overrides: readonly Override[]): Promise<Loaded> {
  const { loadConfig } = await import("@yellow-harbor/service");
  const loaded = loadConfig(file, overrides);
  if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
  return loaded;
}

/** The data folder, by a flag or the configuration. */
export const dataFolderOf = ({ config, folder }: Loaded, given?: string): string =>
  given === undefined ? resolve(folder, config.data) : resolve(given);

type Fault = Extract<LoadedConfig, { ok: false }>["faults"][number];

/** Whether a file cannot be read at all. */
export const isUnreadable = ({ line, from }: Fault): boolean => line === 0 && from === undefined;

/** Where a fault is: a place in the file, or a variable or flag. */
export const placeOf = (file: string, { line, column, from }: Fault): string => from ?? `${file}:${line}:${column}`;

/** The first fault in words; `yh config check` lists them all. */
export function configProblem(file: string, faults: readonly Fault[]): ProblemError {
  const [first] = faults;
  if (first === undefined || isUnreadable(first)) {
    return ProblemError.of(
      "config-unreadable",
      `${file} ${first?.message ?? "cannot be read"}; name another file with --config.`,
    );
  }
  const rest = faults.length > 1 ? ` And ${faults.length - 1} more: run yh config check ${file}.` : "";
  const at = placeOf(file, first);
  return ProblemError.of("config-invalid", `${at} ${first.path ? `${first.path}: ` : ""}${first.message}.${rest}`);
}
