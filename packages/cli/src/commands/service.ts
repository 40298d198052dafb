import { ProblemError } from "@yellow-harbor/client";
import type { UpgradeCheck } from "@yellow-harbor/service";
import type { Command } from "commander";
import pc from "picocolors";
import { dataFolderOf, overridesOf, readConfig, withConfigOptions } from "../config/read-config.ts";
import { contextOf, wholeNumber } from "../context.ts";
import { counted } from "../output/counted.ts";
import { waitingFor } from "../output/progress.ts";
import { screenFor } from "../output/screen.ts";

export function addService(program: Command): void {
  const service = program
    .command("service")
    .description("stop the service so that players come back, and check before an upgrade");
  service
    .command("drain")
    .description("stop the service: players are told when and where to come back, all is written, and it ends")
    .option(
      "--back-in <seconds>",
      "when a service is expected to be there again",
      wholeNumber("--back-in", 0, 3_600),
      0,
    )
    .option("--at <url>", "address at which players find it then, when that is another one")
    .addHelpText("after", "\nWhat keeps the service running, such as systemd, starts it again.")
    .action(async ({ backIn, at }: { backIn: number; at?: string }, command: Command) => {
      const { screen, operator, url } = contextOf(command);
      const drained = await operator.drain({ backInS: backIn, ...(at !== undefined && { url: at }) });
      screen.show(drained, ({ connections }) => [
        `The service at ${url} stops. ${connections} ${connections === 1 ? "player is" : "players are"} told to come back${backIn > 0 ? ` in ${backIn} s` : ""}${at === undefined ? "" : ` at ${at}`}.`,
      ]);
    });
  withConfigOptions(service.command("check"))
    .description("before an upgrade: try on a copy of the data folder what a start of this version would do with it")
    .option("-d, --data <folder>", "data folder instead of the configured one")
    .addHelpText("after", "\nRun it with the new version, while the old one serves. It only reads the data folder.")
    .action(async (options: { config: string; set?: readonly string[]; data?: string }, command: Command) => {
      const { loadUpgradeCheck } = await import("@yellow-harbor/service");
      const screen = screenFor(command.optsWithGlobals());
      const loaded = await readConfig(options.config, await overridesOf(options.set));
      const data = dataFolderOf(loaded, options.data);
      const { upgradeCheck } = await loadUpgradeCheck();
      const checked = await waitingFor("Trying it on a copy", () => upgradeCheck(data, loaded.config)).catch(
        (error: Error) => {
          throw ProblemError.of("data-unusable", error.message);
        },
      );
      screen.show({ data, ...(checked ?? { empty: true }) }, () => lines(data, checked));
    });
}

function lines(data: string, checked: UpgradeCheck | undefined): string[] {
  if (checked === undefined) return [`${data} has nothing yet; this version begins there.`];
  const { version, schema, contents, recoveryMs } = checked;
  const { events, players, rooms, instances } = contents;
  const alive = `${counted(players, "player")}, ${counted(rooms, "room")} and ${counted(instances, "instance")} that had not ended`;
  const isSame = schema.file === schema.version;
  return [
    `${pc.green("fits")}  ${data}`,
    `Version ${version} reads ${counted(events, "event")} and comes to ${alive}, in ${(recoveryMs / 1_000).toFixed(1)} s.`,
    isSame
      ? `Its files stay as they are (schema ${schema.file}): the version before can go on with them.`
      : `The start brings its files from schema ${schema.file} to ${schema.version}: the version before cannot go on with them. Keep a backup to go back: yh backup FILE`,
  ];
}
