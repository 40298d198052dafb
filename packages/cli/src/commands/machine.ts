import { setTimeout } from "node:timers/promises";
import { counted, type MachineMode, type MachineView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { progressOf } from "../output/progress.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

export function addMachine(program: Command): void {
  const machine = program.command("machine").description("list the machines that instances run on, and empty them");
  machine
    .command("list")
    .description("list the machines, whether each is connected, and what runs on it")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.machines(), ({ machines }) => render(machines, screen));
    });
  for (const [name, mode, description] of MODES) {
    machine
      .command(name)
      .description(description)
      .argument("<machine>", "name; yh machine list shows them")
      .option("--reason <text>", "reason; it is kept in the journal")
      .action(async (id: string, { reason }: { reason?: string }, command: Command) => {
        const { screen, operator } = contextOf(command);
        screen.show(await operator.setMachineMode(id, { mode, reason }), (one) => [sentence(one)]);
      });
  }
  machine
    .command("remove")
    .description("forget a machine of a group that has gone for good; what ran there has ended with it")
    .argument("<machine>", "name; yh machine list shows them")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.removeMachine(id), ({ machines }) => render(machines, screen));
    });
  machine
    .command("drain")
    .description("launch nothing there, and let what runs play its matches to the end; then each instance stops")
    .argument("<machine>", "name; yh machine list shows them")
    .option("--within <seconds>", "stop what is left after so long; after the pool's drainMs otherwise", seconds)
    .option("--wait", "wait until nothing runs there any more", false)
    .option("--reason <text>", "reason; it is kept in the journal")
    .action(async (id: string, { within, wait, reason }: DrainOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const withinMs = within === undefined ? undefined : within * 1_000;
      let one = await operator.setMachineMode(id, { mode: "draining", withinMs, reason });
      if (wait) {
        const text = (done: number) => `${id} drains: ${counted(done, "instance")} left`;
        const progress = progressOf(text);
        while (one.running > 0 && one.mode === "draining") {
          progress(one.running);
          await setTimeout(LOOK_EVERY_MS);
          const { machines } = await operator.machines();
          one = machines.find((other) => other.id === id) ?? { ...one, running: 0 };
        }
      }
      screen.show(one, (shown) => [sentence(shown)]);
    });
}

interface DrainOptions {
  readonly within?: number;
  readonly wait: boolean;
  readonly reason?: string;
}

const LOOK_EVERY_MS = 500;

const seconds = wholeNumber("--within", 0, 7 * 86_400);

const MODES: readonly (readonly [name: string, mode: MachineMode, description: string])[] = [
  ["cordon", "cordoned", "launch nothing there any more; what runs goes on"],
  ["open", "open", "launch instances there again"],
];

function sentence({ id, mode = "open", running, untilMs, why }: MachineView): string {
  const runs = `${counted(running, "instance")} ${running === 1 ? "runs" : "run"} there`;
  if (mode === "open") return `${id} is open: ${runs}.`;
  const end = untilMs === undefined ? "" : `; what is left is stopped ${when(untilMs, Date.now(), false)}`;
  const next = mode === "draining" && running === 0 ? "Nothing runs there any more" : `${runs}${end}`;
  return `${id} is ${why ?? mode}. ${next}.`;
}

function render(machines: readonly MachineView[], { width, absolute }: Screen): string[] {
  const now = Date.now();
  const lines = table(
    machines,
    [
      { heading: "MACHINE", value: (one) => pc.bold(one.id) },
      { heading: "STATE", value: stateOf },
      { heading: "DRIVER", value: (one) => one.driver },
      { heading: "REGION", value: (one) => one.region ?? "-" },
      { heading: "HOST", value: (one) => one.host },
      { heading: "RUN", value: (one) => String(one.running), align: "right" },
      { heading: "MAX", value: (one) => String(one.max), align: "right" },
      { heading: "CPUS", value: ({ cpus }) => shareText(cpus), align: "right" },
      { heading: "MIB", value: ({ memoryMb }) => shareText(memoryMb), align: "right" },
      {
        heading: "LOAD",
        value: ({ load }) => (load === undefined ? "-" : `${Math.round(load * 100)} %`),
        align: "right",
      },
      { heading: "SINCE", value: ({ sinceMs }) => (sinceMs === undefined ? "-" : when(sinceMs, now, absolute)) },
      { heading: "WHY", value: (one) => one.why ?? "" },
    ],
    width,
  );
  return [...lines, pc.dim(`${machines.length} ${machines.length === 1 ? "machine" : "machines"}`)];
}

function stateOf({ isThere, mode = "open" }: MachineView): string {
  if (!isThere) return pc.yellow("away");
  return mode === "open" ? pc.green("there") : pc.yellow(mode);
}

/** Reserved of all, where that is known. */
const shareText = (share: MachineView["cpus"]): string =>
  share === undefined ? "-" : `${share.reserved}/${share.all}`;
