import type { RanRules } from "@yellow-harbor/lab";
import { type Command, InvalidArgumentError } from "commander";
import { type Screen, screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";
import { addLabPool } from "./lab-pool.ts";
import { addTrafficOptions, conditionsOf, ruleSetsOf, type TrafficOptions, trafficOf } from "./lab-queues.ts";
import { addLabSweep } from "./lab-sweep.ts";

interface LabOptions extends TrafficOptions {
  readonly until?: number;
  readonly out?: string;
  readonly report?: string;
}

const loadLab = () => import("@yellow-harbor/lab");

export function addLab(program: Command): void {
  const lab = program.command("lab").description("try rules on recorded or made traffic before they ship");
  const queue = lab
    .command("queue")
    .description("simulate a queue with recorded or made traffic in virtual time, and compare rules");
  addTrafficOptions(queue)
    .option("--until <seconds>", "stop here, instead of when nothing can change any more", secondsOf)
    .option("--out <file>", "write the matches and the outcome of the other tickets, by the queue's own rules")
    .option("--report <file>", "write a page with figures and plots")
    .action(async (options: LabOptions, command: Command) => {
      const screen = screenFor(command.optsWithGlobals());
      await labQueue(options, screen);
    });
  addLabSweep(lab);
  addLabPool(lab);
}

function secondsOf(typed: string): number {
  const seconds = Number(typed);
  if (typed.trim() !== "" && Number.isFinite(seconds) && seconds >= 0) return seconds;
  throw new InvalidArgumentError(`${typed} is not a number of seconds.`);
}

async function labQueue(options: LabOptions, screen: Screen): Promise<void> {
  const { figuresOf, linesOf, play, report } = await loadLab();
  const { SERVICE_VERSION, queueRulesOf } = await import("@yellow-harbor/service");
  const sets = await ruleSetsOf(options);
  const { tickets, from } = await trafficOf(options, queueRulesOf(sets[0].queue));
  const conditions = await conditionsOf(options);
  const ran: RanRules[] = [];
  for (const { name, queue } of sets) {
    const startedMs = performance.now();
    const until = options.until === undefined ? {} : { untilS: options.until };
    const played = play(queueRulesOf(queue), tickets, { ...until, ...conditions, seed: options.seed });
    ran.push({ name, played, figures: figuresOf(tickets, played) });
    const tookMs = performance.now() - startedMs;
    screen.note(`${name}: ${played.passes} passes in ${Math.round(tookMs)} ms`);
  }
  if (options.out !== undefined) writeText(options.out, linesOf((ran[0] as RanRules).played));
  if (options.report !== undefined) {
    writeText(options.report, report(ran, { queue: options.queue, traffic: from, version: SERVICE_VERSION }));
  }
  await show(options, ran, from, screen);
}

async function show(options: LabOptions, ran: readonly RanRules[], from: string, screen: Screen): Promise<void> {
  const { comparison } = await loadLab();
  const rules = ran.map(({ name, figures }) => ({ name, ...figures }));
  screen.show({ queue: options.queue, traffic: from, rules }, () => {
    const rows = comparison(ran.map(({ figures }) => figures));
    const columns = ran.map(({ name }, n) => ({
      heading: name,
      value: (row: readonly string[]) => row[n + 1] ?? "",
      align: "right" as const,
    }));
    return table(rows, [{ heading: "", value: ([label]) => label }, ...columns], screen.width);
  });
  for (const { name, played } of ran) tellRefused(name, played.endings, screen);
  if (screen.json) return;
  if (options.report === undefined) screen.note("--report FILE.html writes a page with plots; --rules FILE compares.");
}

/** Refused tickets are told even where nobody asked: rules and traffic that do not fit each other are a finding. */
function tellRefused(name: string, endings: RanRules["played"]["endings"], screen: Screen): void {
  const first = new Map<string, { count: number; example: string }>();
  for (const { code, detail, ticket } of endings) {
    if (code === undefined) continue;
    const known = first.get(code) ?? { count: 0, example: `${ticket}: ${detail}` };
    first.set(code, { ...known, count: known.count + 1 });
  }
  for (const [code, { count, example }] of first) {
    screen.note(`${name}: ${count} ${count === 1 ? "ticket" : "tickets"} refused, ${code}. ${example}`);
  }
}
