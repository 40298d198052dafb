import { hostname } from "node:os";
import { resolve } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import { type Command, Option } from "commander";
import { contextOf } from "../context.ts";

interface AgentArgs {
  readonly agentToken?: string;
  readonly folder: string;
  readonly data: string;
  readonly runAs?: string;
  readonly allow?: readonly string[];
  readonly cgroups: string;
  readonly name: string;
  readonly host?: string;
  readonly notice?: string;
}

/** The name of this computer, as far as machines may be called so. */
const ownName = (): string =>
  hostname()
    .toLowerCase()
    .replace(/[^a-z0-9-]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 20) || "machine";

export function addAgent(program: Command): void {
  program
    .command("agent")
    .description("run instances on this computer for a service elsewhere; connects outwards only")
    .addOption(
      new Option("--agent-token <token>", "of this machine: yh token --machine NAME prints it").env("YH_AGENT_TOKEN"),
    )
    .option("-f, --folder <folder>", "folder that relative commands of builds count from", ".")
    .option("-d, --data <folder>", "folder for the output of instances", "data")
    .option("--run-as <user>", "user that instances run as; needs root")
    .option("--name <name>", "with a token of a group: name of this machine there", ownName())
    .option(
      "--host <host>",
      "with a token of a group: host at which players reach this machine; where it connects from when left out",
    )
    .option(
      "--notice <command>",
      "asked every 5 s whether this machine is about to be taken away: exit code 0 when it is, printing the seconds left",
    )
    .option("--cgroups <place>", "control groups for instances: auto, off or a folder", "auto")
    .option(
      "--allow <program...>",
      "programs that may be run, by file or by sha256:CHECKSUM; whatever the service says when left out",
    )
    .action(
      async (
        { agentToken, folder, data, runAs, cgroups, name, host, notice, allow = [] }: AgentArgs,
        command: Command,
      ) => {
        const { url, screen } = contextOf(command);
        if (agentToken === undefined) {
          throw ProblemError.of(
            "usage",
            "Give --agent-token or YH_AGENT_TOKEN; `yh token --machine NAME` prints it where the service runs.",
          );
        }
        const { AgentRefusedError, runAgent } = await (await import("@yellow-harbor/service")).loadAgent();
        const stopping = new AbortController();
        for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stopping.abort());
        try {
          await runAgent({
            url,
            token: agentToken,
            workingFolder: resolve(folder),
            runAs,
            cgroups,
            name,
            host,
            notice,
            allow,
            dataFolder: resolve(data),
            output: { keepBytes: 8_388_608, keepMs: 7 * 86_400_000 },
            signal: stopping.signal,
            joined: () => screen.note(`joined ${url}; instances run here from now on, and outlive this agent`),
          });
        } catch (error) {
          if (error instanceof AgentRefusedError) throw new ProblemError(error.problem);
          throw error;
        }
      },
    );
}
