import { addressText, type InstanceView, portText } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import { type Screen, safeLines, stateText } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

export function addInstance(program: Command): void {
  const instance = program.command("instance").description("list dedicated instances, and show what they print");
  instance
    .command("list")
    .description("list instances, the newest first")
    .option("--ended", "include those that have ended")
    .option("--state <state>", "only those in one state: launched, booting, open, busy, draining, ended, failed")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 50)
    .action(async (options: { ended?: boolean; state?: string; limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const page = await operator.instances(options);
      screen.show(page, ({ instances, next }) => render(instances, next !== undefined, screen));
      if (!screen.json && page.instances[0]) screen.note(`next: yh instance logs ${page.instances[0].id}`);
    });
  instance
    .command("logs")
    .description("show what an instance has printed, also one that has ended")
    .argument("<instance>", "id")
    .option("-f, --follow", "keep printing until the instance ends, or Ctrl-C")
    .option("--stream <name>", "out, err or both", "both")
    .option("--tail <bytes>", "begin this many bytes before the end", wholeNumber("--tail", 0, 67_108_864))
    .option(
      "--find <text>",
      "only lines that hold a text, whatever its case; in all that is kept unless --tail says less",
    )
    .action(async (id: string, options: LogOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { follow, stream, find, tail } = options;
      const tailBytes = tail ?? (find === undefined ? 65_536 : 67_108_864);
      let rest = "";
      for await (const text of operator.output(id, { follow, stream, tailBytes, find })) {
        if (!screen.json) io().out.write(safeLines(text.replaceAll("\r\n", "\n")));
        const lines = (rest + text).split("\n");
        rest = lines.pop() ?? "";
        if (screen.json) for (const line of lines) screen.jsonLine({ instance: id, line });
      }
      if (screen.json && rest !== "") screen.jsonLine({ instance: id, line: rest });
    });
  instance
    .command("show")
    .description("show an instance: where it runs, for which rooms, since when and why; also one that has ended")
    .argument("<instance>", "id")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.instance(id), (one) => details(one, screen));
    });
  instance
    .command("drain")
    .description("drain an instance: it takes no new room, and stops once its matches are over")
    .argument("<instance>", "id")
    .option("--reason <text>", "reason; it is kept in the journal and with the instance")
    .action(async (id: string, { reason }: { reason?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.drainInstance(id, reason), (one) => [
        one.rooms.length === 0
          ? `${one.id} stops: ${one.why}.`
          : `${one.id} takes no new room and goes on for ${one.rooms.length}: ${one.why}.`,
      ]);
    });
}

interface LogOptions {
  readonly follow?: boolean;
  readonly stream: string;
  readonly tail?: number;
  readonly find?: string;
}

function details(one: InstanceView, { absolute }: Screen): string[] {
  const now = Date.now();
  const { address, machine, region, ports = {}, transports = {}, berths, rooms, differences = [] } = one;
  const more = Object.entries(ports).map(([purpose, port]) => `, ${purpose} ${portText(port, transports[purpose])}`);
  const exit =
    one.exit && (one.exit.signal ?? (one.exit.code === undefined ? "nobody saw it" : `code ${one.exit.code}`));
  return [
    `${pc.bold(one.id)}  ${stateText(one.state)} since ${when(one.changedAtMs, now, absolute)}: ${one.why}`,
    `runs    ${one.build} ${one.version} of pool ${one.pool}, on ${machine}${region === undefined ? "" : ` in ${region}`}${one.pid === undefined ? "" : `, process ${one.pid}`}`,
    ...(one.placed === undefined ? [] : [`placed  ${one.placed}`]),
    `at      ${addressText(address)}${more.join("")}`,
    `launched ${when(one.launchedAtMs, now, absolute)}`,
    ...(exit === undefined ? [] : [`exit    ${exit}`]),
    ...rooms.map(({ room, run, level }) => `room    ${room}${run === undefined ? "" : `, run ${run} on ${level}`}`),
    ...berths.map(({ name, state }) => `berth   ${name} ${state}`),
    ...differences.map(({ text }) => `differs ${text}`),
  ];
}

function render(instances: readonly InstanceView[], hasMore: boolean, { width, absolute }: Screen): string[] {
  if (instances.length === 0)
    return ["No instances. One is started when a room starts; yh instance list --ended shows those there were."];
  const now = Date.now();
  const lines = table(
    instances,
    [
      { heading: "INSTANCE", value: (one) => pc.bold(one.id) },
      { heading: "STATE", value: (one) => stateText(one.state) },
      { heading: "ADDRESS", value: (one) => addressText(one.address) },
      { heading: "PLAYERS", value: playersOf, align: "right" },
      { heading: "PID", value: (one) => String(one.pid ?? "-"), align: "right" },
      {
        heading: "EXIT",
        value: (one) => (one.exit === undefined ? "-" : (one.exit.signal ?? String(one.exit.code ?? "?"))),
        align: "right",
      },
      { heading: "POOL", value: (one) => one.pool },
      { heading: "LAUNCHED", value: (one) => when(one.launchedAtMs, now, absolute) },
      { heading: "WHY", value: (one) => one.why },
    ],
    width,
  );
  const count = `${instances.length} ${instances.length === 1 ? "instance" : "instances"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and more: raise --limit` : count)];
}

const playersOf = ({ berths }: InstanceView) =>
  berths.length === 0 ? "-" : `${berths.filter((berth) => berth.state === "taken").length}/${berths.length}`;
