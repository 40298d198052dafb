import type { InstanceView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { type Screen, stateText } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

export function addInstance(program: Command): void {
  const instance = program.command("instance").description("look at dedicated instances and what they print");
  instance
    .command("list")
    .description("instances, the newest first")
    .option("--ended", "also those that have ended")
    .option("--state <state>", "only those in one state: ordered, booting, open, busy, draining, ended, failed")
    .option("--limit <number>", "at most so many", wholeNumber("--limit", 1, 500), 50)
    .action(async (options: { ended?: boolean; state?: string; limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const page = await operator.instances(options);
      screen.show(page, ({ instances, next }) => render(instances, next !== undefined, screen));
      if (!screen.json && page.instances[0]) screen.note(`next: yh instance logs ${page.instances[0].id}`);
    });
  instance
    .command("logs")
    .description("what an instance has printed, also one that has ended")
    .argument("<instance>", "id")
    .option("-f, --follow", "keep printing until it has ended or Ctrl-C")
    .option("--stream <name>", "out, err or both", "both")
    .option("--tail <bytes>", "begin so many bytes from the end", wholeNumber("--tail", 0, 1_048_576), 65_536)
    .action(async (id: string, options: { follow?: boolean; stream: string; tail: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { follow, stream, tail: tailBytes } = options;
      let rest = "";
      for await (const text of operator.output(id, { follow, stream, tailBytes })) {
        if (!screen.json) process.stdout.write(text);
        const lines = (rest + text).split("\n");
        rest = lines.pop() ?? "";
        if (screen.json) for (const line of lines) screen.line(JSON.stringify({ instance: id, line }));
      }
      if (screen.json && rest !== "") screen.line(JSON.stringify({ instance: id, line: rest }));
    });
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
      { heading: "ADDRESS", value: (one) => `${one.address.host}:${one.address.port}` },
      { heading: "PLAYERS", value: playersOf, align: "right" },
      { heading: "PID", value: (one) => String(one.pid ?? "-"), align: "right" },
      {
        heading: "EXIT",
        value: (one) => (one.exit === undefined ? "-" : (one.exit.signal ?? String(one.exit.code ?? "?"))),
        align: "right",
      },
      { heading: "POOL", value: (one) => one.pool },
      { heading: "ORDERED", value: (one) => when(one.orderedAtMs, now, absolute) },
      { heading: "WHY", value: (one) => one.why },
    ],
    width,
  );
  const count = `${instances.length} ${instances.length === 1 ? "instance" : "instances"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and more: raise --limit` : count)];
}

const playersOf = ({ berths }: InstanceView) =>
  berths.length === 0 ? "-" : `${berths.filter((berth) => berth.state === "taken").length}/${berths.length}`;
