import type { Command } from "commander";
import { dataFolderOf, overridesOf, readConfig } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";
import { screenFor } from "../output/screen.ts";

export function addToken(program: Command): void {
  program
    .command("token")
    .description("print the operator token of a data folder, on the service's computer")
    .option("-c, --config <file>", "configuration file", "harbor.yaml")
    .option("-m, --machine <name>", "print the token of the agent of a machine instead")
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .option("--days <number>", "with --machine: days until it ends", wholeNumber("--days", 1, 3_650), 365)
    .action(
      async (
        { config, data, machine, days }: { config: string; data?: string; machine?: string; days: number },
        command: Command,
      ) => {
        const { readAgentToken, readOperatorToken } = await import("@yellow-harbor/service");
        const loaded = await readConfig(config, await overridesOf());
        const path = dataFolderOf(loaded, data);
        const { harbor } = loaded.config;
        const token = await (machine === undefined
          ? readOperatorToken(path)
          : readAgentToken(path, harbor, machine, days));
        screenFor(command.optsWithGlobals()).show({ token }, () => [token]);
      },
    );
}
