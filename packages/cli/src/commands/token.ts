import { dirname, isAbsolute, resolve } from "node:path";
import type { Command } from "commander";
import { screenFor } from "../output/screen.ts";
import { configProblem } from "./serve.ts";

export function addToken(program: Command): void {
  program
    .command("token")
    .description("print the operator token of a data folder, on the service's own computer")
    .option("-c, --config <file>", "configuration file", "harbor.yaml")
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .action(async ({ config, data }: { config: string; data?: string }, command: Command) => {
      const { loadConfig, readOperatorToken } = await import("@yellow-harbor/service");
      const loaded = loadConfig(config);
      if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
      const folder = data ?? loaded.config.data;
      const token = await readOperatorToken(
        isAbsolute(folder) || data !== undefined ? resolve(folder) : resolve(dirname(loaded.file), folder),
      );
      screenFor(command.optsWithGlobals()).show({ token }, () => [token]);
    });
}
