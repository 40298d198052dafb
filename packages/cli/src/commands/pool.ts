import { ProblemError } from "@yellow-harbor/client";
import type { PoolView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";

interface WarmOptions {
  readonly from?: string;
  readonly for: number;
  readonly min: number;
  readonly spare: number;
  readonly reason?: string;
}

function timeOf(text: string): number {
  const ms = Date.parse(text);
  if (Number.isNaN(ms))
    throw ProblemError.of("usage", `--from ${text} is no time; give one such as 2027-06-01T18:00:00Z.`);
  return ms;
}

export function addPool(program: Command): void {
  const pool = program.command("pool").description("list pools, and plan how many instances they run");
  pool
    .command("list")
    .description("list the pools, what runs in each and what should")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { pools } = await operator.pools();
      screen.show({ pools }, () => render(pools, screen));
      const [first] = pools.filter(({ plan }) => plan !== undefined);
      if (first && !screen.json) screen.note(`why this many: yh pool plan ${first.id}`);
    });
  pool
    .command("plan")
    .description("show how many instances a pool should run, with the arithmetic")
    .argument("<pool>", "name")
    .option("--apply", "apply it now, instead of within a second", false)
    .action(async (name: string, { apply }: { apply: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      // What is to be done stands in the plan before it is done.
      const plan = await operator.explainPool(name);
      if (apply) await operator.considerPool(name);
      screen.show(plan, ({ text }) => [...text, ...(apply ? ["Done."] : [])]);
    });
  pool
    .command("warm")
    .description("have a pool be larger for a time, such as for an event that was announced")
    .argument("<pool>", "name")
    .option("--from <time>", "when it begins, such as 2027-06-01T18:00:00+02:00; now when left out")
    .requiredOption("--for <minutes>", "how long it lasts", wholeNumber("--for", 1, 43_200))
    .option("--min <instances>", "minimum of instances meanwhile", wholeNumber("--min", 0, 10_000), 0)
    .option("--spare <instances>", "instances to spare meanwhile", wholeNumber("--spare", 0, 10_000), 0)
    .option("--reason <text>", "reason; it is kept in the journal and told with the plan")
    .action(async (name: string, options: WarmOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { from, for: minutes, min, spare, reason } = options;
      const fromMs = from === undefined ? undefined : timeOf(from);
      const time = { fromMs, lastsMs: minutes * 60_000, min, spare, reason };
      screen.show(await operator.warmPool(name, time), ({ text, windows = [] }) => [
        ...text,
        ...windows.map(({ id, why }) => `${id}  ${why}`),
      ]);
    });
  pool
    .command("cool")
    .description("call a time off in which a pool was to be larger")
    .argument("<pool>", "name")
    .argument("<time>", "id of it; yh pool plan --json shows them")
    .action(async (name: string, id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.coolPool(name, id), ({ text }) => [...text]);
    });
  pool
    .command("pause")
    .description("pause the planner: it launches and retires nothing")
    .argument("<pool>", "name")
    .action(async (name: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.setPoolMode(name, "paused"), ({ text }) => [...text]);
    });
  pool
    .command("resume")
    .description("resume the planner, also after it has given up on instances that do not come up")
    .argument("<pool>", "name")
    .action(async (name: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.setPoolMode(name, "open"), ({ text }) => [...text]);
    });
  pool
    .command("pin")
    .description("run this many instances whatever the demand; never fewer than rooms hold")
    .argument("<pool>", "name")
    .argument("<instances>", "number of instances", wholeNumber("<instances>", 0, 10_000))
    .action(async (name: string, instances: number, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.pinPool(name, instances), ({ text }) => [...text]);
    });
  pool
    .command("unpin")
    .description("plan by demand again")
    .argument("<pool>", "name")
    .action(async (name: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.pinPool(name, null), ({ text }) => [...text]);
    });
}

function render(pools: readonly PoolView[], { width }: Screen): string[] {
  if (pools.length === 0) return ["No pools. They stand under pools in the configuration."];
  const lines = table(
    pools,
    [
      { heading: "POOL", value: (one) => pc.bold(one.id) },
      { heading: "PLANNER", value: plannerText },
      { heading: "WANTED", value: ({ plan }) => (plan ? String(plan.wanted) : "-"), align: "right" },
      { heading: "RUN", value: (one) => String(one.live), align: "right" },
      { heading: "HELD", value: (one) => String(one.held), align: "right" },
      { heading: "FREE", value: (one) => String(one.idle), align: "right" },
      { heading: "BOOTING", value: (one) => String(one.coming), align: "right" },
      { heading: "DRAINING", value: (one) => String(one.draining), align: "right" },
      { heading: "MAX", value: (one) => String(one.max), align: "right" },
      { heading: "BOOT", value: ({ plan }) => (plan?.bootS ? `${plan.bootS.toFixed(1)} s` : "-"), align: "right" },
    ],
    width,
  );
  return [...lines, pc.dim(`${pools.length} ${pools.length === 1 ? "pool" : "pools"}`)];
}

function plannerText({ plan, mode, pinned, failures }: PoolView): string {
  if (plan === undefined) return pc.dim("on demand");
  if (mode === "paused") return pc.yellow("paused");
  if (failures > 0) return pc.yellow(`${failures} failed`);
  return pinned === undefined ? "planned" : "pinned";
}
