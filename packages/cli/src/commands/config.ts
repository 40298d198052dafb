import type { Command } from "commander";
import pc from "picocolors";
import { io } from "../io.ts";
import { screenFor } from "../output/screen.ts";
import { configProblem } from "./serve.ts";

export function addConfig(program: Command): void {
  const config = program.command("config").description("check a configuration file before using it");
  config
    .command("check")
    .description("check a configuration file; every fault is shown with its line and column")
    .argument("[file]", "configuration file", "harbor.yaml")
    .action(async (file: string, _options: unknown, command: Command) => {
      const { loadConfig } = await import("@yellow-harbor/service");
      const screen = screenFor(command.optsWithGlobals());
      const loaded = loadConfig(file);
      if (loaded.ok) {
        const { harbor, lobbies, roomKinds, levels, queues, builds, pools } = loaded.config;
        const count = {
          lobbies: size(lobbies),
          roomKinds: size(roomKinds),
          levels: size(levels),
          queues: size(queues),
          builds: size(builds),
          pools: size(pools),
        };
        const counted = [
          ...[`lobbies ${count.lobbies}`, `room kinds ${count.roomKinds}`, `levels ${count.levels}`],
          ...[`queues ${count.queues}`, `builds ${count.builds}`, `pools ${count.pools}`],
        ];
        return screen.show({ ok: true, file: loaded.file, harbor, ...count }, () => [
          `${pc.green("valid")}  ${loaded.file}`,
          `harbor ${harbor}: ${counted.join(", ")}`,
        ]);
      }
      const { faults } = loaded;
      if (faults[0]?.line === 0) throw configProblem(loaded.file, faults);
      screen.show({ ok: false, file: loaded.file, faults }, () => [
        ...faults.map(
          ({ line, column, path, message }) =>
            `${loaded.file}:${line}:${column}  ${path ? `${pc.bold(path)}  ` : ""}${message}`,
        ),
        pc.dim(`${faults.length} ${faults.length === 1 ? "fault" : "faults"}`),
      ]);
      io().exitCode = 7;
    });
  config
    .command("schema")
    .description("print the JSON Schema of the configuration file, for editors")
    .action(async () => {
      const { configJsonSchema } = await import("@yellow-harbor/service");
      io().out.write(`${JSON.stringify(configJsonSchema(), null, 2)}\n`);
    });
}

const size = (record: Record<string, unknown>) => Object.keys(record).length;
