import type { MachineView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

export function addMachine(program: Command): void {
  program
    .command("machine")
    .description("list the machines that instances run on")
    .command("list")
    .description("list the machines, whether each is connected, and what runs on it")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.machines(), ({ machines }) => render(machines, screen));
    });
}

function render(machines: readonly MachineView[], { width, absolute }: Screen): string[] {
  const now = Date.now();
  const lines = table(
    machines,
    [
      { heading: "MACHINE", value: (one) => pc.bold(one.id) },
      { heading: "STATE", value: ({ isThere }) => (isThere ? pc.green("there") : pc.yellow("away")) },
      { heading: "DRIVER", value: (one) => one.driver },
      { heading: "REGION", value: (one) => one.region ?? "-" },
      { heading: "HOST", value: (one) => one.host },
      { heading: "RUN", value: (one) => String(one.running), align: "right" },
      { heading: "MAX", value: (one) => String(one.max), align: "right" },
      { heading: "SINCE", value: ({ sinceMs }) => (sinceMs === undefined ? "-" : when(sinceMs, now, absolute)) },
      { heading: "WHY", value: (one) => one.why ?? "" },
    ],
    width,
  );
  return [...lines, pc.dim(`${machines.length} ${machines.length === 1 ? "machine" : "machines"}`)];
}
