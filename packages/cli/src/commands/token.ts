import type { Command } from "commander";
import { dataFolderOf, overridesOf, readConfig } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";
import { screenFor } from "../output/screen.ts";

interface TokenOptions {
  readonly config: string;
  readonly data?: string;
  readonly machine?: string;
  readonly machineGroup?: string;
  readonly days: number;
}

export function addToken(program: Command): void {
  program
    .command("token")
    .description("print the operator token of a data folder, on the service's computer")
    .option("-c, --config <file>", "configuration file", "harbor.yaml")
    .option("-m, --machine <name>", "print the token of the agent of a machine instead")
    .option("--machine-group <name>", "print the token with which machines join a group instead")
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .option(
      "--days <number>",
      "with --machine or --machine-group: days until it ends",
      wholeNumber("--days", 1, 3_650),
      365,
    )
    .action(async ({ config, data, machine, machineGroup, days }: TokenOptions, command: Command) => {
      const { readAgentToken, readGroupToken, readOperatorToken } = await import("@yellow-harbor/service");
      const loaded = await readConfig(config, await overridesOf());
      const path = dataFolderOf(loaded, data);
      const { harbor } = loaded.config;
      const token = await (machine !== undefined
        ? readAgentToken(path, harbor, machine, days)
        : machineGroup !== undefined
          ? readGroupToken(path, harbor, machineGroup, days)
          : readOperatorToken(path));
      screenFor(command.optsWithGlobals()).show({ token }, () => [token]);
    });
}
