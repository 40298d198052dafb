import { Command, Option } from "commander";
import { addConfig } from "./commands/config.ts";
import { addInstance } from "./commands/instance.ts";
import { addPlay } from "./commands/play.ts";
import { addRoom } from "./commands/room.ts";
import { addServe } from "./commands/serve.ts";
import { addStatus } from "./commands/status.ts";
import { addToken } from "./commands/token.ts";
import { DEFAULT_URL } from "./context.ts";
import { explainError } from "./errors.ts";

export function buildProgram(): Command {
  const program = new Command("yh")
    .description("Yellow Harbor: run the service and look into it")
    .addOption(new Option("--url <address>", "address of the service").env("YH_URL").default(DEFAULT_URL))
    .addOption(new Option("--token <token>", "operator token, where one is needed").env("YH_TOKEN"))
    .option("--json", "print JSON and nothing else")
    .option("--absolute", "print times as dates instead of relative ones")
    .showSuggestionAfterError()
    .showHelpAfterError("(yh help shows what there is)")
    .exitOverride();
  for (const add of [addServe, addStatus, addRoom, addInstance, addPlay, addConfig, addToken]) add(program);
  for (const command of program.commands) inherit(command);
  return program;
}

/** Subcommands take the global options too, wherever they stand, and end the same way. */
function inherit(command: Command): void {
  command.exitOverride();
  for (const child of command.commands) inherit(child);
}

/** Runs yh. The exit code comes from the table of problems. */
export async function main(argv: readonly string[]): Promise<void> {
  const program = buildProgram();
  try {
    await program.parseAsync([...argv]);
  } catch (error) {
    process.exitCode = explainError(error, argv.includes("--json"));
  }
}
