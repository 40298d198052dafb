import type { ConfigChanges } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { stringify } from "yaml";
import { appliedLines, diffLines, inOneLine } from "../config/config-lines.ts";
import {
  configProblem,
  DEFAULT_FILE,
  isUnreadable,
  overridesOf,
  placeOf,
  readConfig,
  settingOption,
} from "../config/read-config.ts";
import { contextOf } from "../context.ts";
import { io } from "../io.ts";
import { screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";

interface Settings {
  readonly set?: readonly string[];
}

export function addConfig(program: Command): void {
  const config = program
    .command("config")
    .description("check a configuration, see where its values are from, and change it");
  config
    .command("check")
    .description("check a configuration file; every fault is shown with its line and column")
    .argument("[file]", "configuration file", DEFAULT_FILE)
    .addOption(settingOption())
    .action(check);
  config
    .command("show")
    .description("the values that a service would start with, or with --running those that hold now")
    .argument("[file]", "configuration file", DEFAULT_FILE)
    .addOption(settingOption())
    .option("--origin", "where each value is from: the file with its line, a variable, a flag, or the default")
    .option("--running", "of the service that runs, instead of the file")
    .action(show);
  config
    .command("diff")
    .description("what the service's file has that does not hold now; with two files, what the second changes")
    .argument("[before]", "configuration file")
    .argument("[after]", "configuration file to hold against it")
    .action(diff);
  config
    .command("apply")
    .description("have the service read its file again and take what can be taken while it runs")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.applyConfig(), appliedLines);
    });
  config
    .command("schema")
    .description("print the JSON Schema of the configuration file, for editors")
    .action(async () => {
      const { configJsonSchema } = await import("@yellow-harbor/service");
      io().out.write(`${JSON.stringify(configJsonSchema(), null, 2)}\n`);
    });
}

async function check(file: string, { set }: Settings, command: Command): Promise<void> {
  const { loadConfig } = await import("@yellow-harbor/service");
  const screen = screenFor(command.optsWithGlobals());
  const loaded = loadConfig(file, await overridesOf(set));
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
  if (faults[0] && isUnreadable(faults[0])) throw configProblem(loaded.file, faults);
  screen.show({ ok: false, file: loaded.file, faults }, () => [
    ...faults.map(
      (fault) => `${placeOf(loaded.file, fault)}  ${fault.path ? `${pc.bold(fault.path)}  ` : ""}${fault.message}`,
    ),
    pc.dim(`${faults.length} ${faults.length === 1 ? "fault" : "faults"}`),
  ]);
  io().exitCode = 7;
}

interface ShowOptions extends Settings {
  readonly origin?: boolean;
  readonly running?: boolean;
}

async function show(file: string, { set, origin, running }: ShowOptions, command: Command): Promise<void> {
  if (running) {
    const { screen, operator } = contextOf(command);
    const { config } = await operator.config();
    return screen.show(config, () => stringify(config).trimEnd().split("\n"));
  }
  const screen = screenFor(command.optsWithGlobals());
  const overrides = await overridesOf(set);
  const loaded = await readConfig(file, overrides);
  if (!origin) return screen.show(loaded.config, () => stringify(loaded.config).trimEnd().split("\n"));
  const { originsOf } = await import("@yellow-harbor/service");
  const values = originsOf(loaded, overrides);
  screen.show({ file: loaded.file, values }, () =>
    table(
      values,
      [
        { heading: "KEY", value: ({ path }) => path },
        { heading: "FROM", value: (one) => (one.origin === "default" ? pc.dim(one.origin) : one.origin) },
        { heading: "VALUE", value: ({ value }) => inOneLine(value) },
      ],
      screen.width,
    ),
  );
  if (!screen.json) screen.note(order);
}

const order = "flags come before the environment, that before the file, and that before defaults";

async function diff(before: string | undefined, after: string | undefined, _options: unknown, command: Command) {
  if (before === undefined) {
    const { screen, operator } = contextOf(command);
    const changes = await operator.configChanges();
    screen.show(changes, diffLines);
    if (!screen.json && changes.changes.length > 0) screen.note("next: yh config apply");
    return;
  }
  const screen = screenFor(command.optsWithGlobals());
  const { changesBetween } = await import("@yellow-harbor/service");
  const overrides = await overridesOf();
  const [one, other] = [await readConfig(before, overrides), await readConfig(after ?? DEFAULT_FILE, overrides)];
  const { changes, needsRestart } = changesBetween(one.config, other.config);
  const found: ConfigChanges = {
    file: other.file,
    changes: [...changes],
    ...(needsRestart !== undefined && { needsRestart }),
  };
  screen.show(found, diffLines);
}

const size = (record: Record<string, unknown>) => Object.keys(record).length;
