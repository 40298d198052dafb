import { basename } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import type { QueueRules } from "@yellow-harbor/core";
import type { RanRules, TicketLine } from "@yellow-harbor/lab";
import type { QueueConfig } from "@yellow-harbor/service";
import { type Command, InvalidArgumentError } from "commander";
import { configProblem } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";
import { type Screen, screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";
import { gathered, readText, readYamlAs } from "./lab-files.ts";
import { addLabPool } from "./lab-pool.ts";

interface LabOptions {
  readonly config: string;
  readonly queue: string;
  readonly tickets?: string;
  readonly generate?: string | true;
  readonly seed: number;
  readonly save?: string;
  readonly rules: readonly string[];
  readonly until?: number;
  readonly out?: string;
  readonly report?: string;
}

const loadLab = () => import("@yellow-harbor/lab");
const loadService = () => import("@yellow-harbor/service");

export function addLab(program: Command): void {
  const lab = program.command("lab").description("try rules on recorded or made traffic before they ship");
  lab
    .command("queue")
    .description("simulate a queue with recorded or made traffic in virtual time, and compare rules")
    .requiredOption("--config <file>", "configuration file with the queue")
    .requiredOption("--queue <name>", "queue whose rules are tried")
    .option("--tickets <file>", "traffic, one ticket per line in JSON")
    .option("--generate [plan]", "make traffic instead, from a YAML plan or the defaults")
    .option("--seed <number>", "seed of the made traffic", wholeNumber("--seed", 0, 2 ** 31 - 1), 1)
    .option("--save <file>", "write the made traffic to a file")
    .option("--rules <file>", "other rules: what differs from the queue; may be repeated", gathered, [])
    .option("--until <seconds>", "stop here, instead of when nothing can change any more", secondsOf)
    .option("--out <file>", "write the matches and the outcome of the other tickets, by the queue's own rules")
    .option("--report <file>", "write a page with figures and plots")
    .action(async (options: LabOptions, command: Command) => {
      const screen = screenFor(command.optsWithGlobals());
      await labQueue(options, screen);
    });
  addLabPool(lab);
}

function secondsOf(typed: string): number {
  const seconds = Number(typed);
  if (typed.trim() !== "" && Number.isFinite(seconds) && seconds >= 0) return seconds;
  throw new InvalidArgumentError(`${typed} is not a number of seconds.`);
}

async function labQueue(options: LabOptions, screen: Screen): Promise<void> {
  const { figuresOf, linesOf, play, report } = await loadLab();
  const { SERVICE_VERSION } = await loadService();
  const sets = await ruleSets(options);
  const own = sets[0]?.queue as QueueRules;
  const { tickets, from } = await trafficOf(options, own);
  if (tickets.length === 0) throw ProblemError.of("traffic-invalid", `${from} holds no ticket; give one a line.`);
  const ran: RanRules[] = [];
  for (const { name, queue } of sets) {
    const startedMs = performance.now();
    const played = play(queue, tickets, options.until === undefined ? {} : { untilS: options.until });
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

/** The queue's own rules first, then the others. */
async function ruleSets({ config, queue, rules }: LabOptions): Promise<{ name: string; queue: QueueRules }[]> {
  const { loadConfig, loadQueueChange, queueRulesOf } = await loadService();
  const loaded = loadConfig(config);
  if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
  const base: QueueConfig | undefined = loaded.config.queues[queue];
  if (base === undefined) {
    const accepted = Object.keys(loaded.config.queues);
    const known = accepted.length === 0 ? "it has none" : `it has ${accepted.join(", ")}`;
    throw ProblemError.of("queue-unknown", `${loaded.file} has no queue ${queue}; ${known}.`, { accepted });
  }
  const others = rules.map((file) => {
    const change = loadQueueChange(file, queue, base);
    if (!change.ok) throw configProblem(change.file, change.faults);
    return { name: basename(file).replace(/\.ya?ml$/, ""), queue: queueRulesOf(change.queue) };
  });
  return [{ name: "as configured", queue: queueRulesOf(base) }, ...others];
}

async function trafficOf(
  { tickets: file, generate: plan, seed, save }: LabOptions,
  queue: QueueRules,
): Promise<{ tickets: readonly TicketLine[]; from: string }> {
  const { generate, readTraffic } = await loadLab();
  if ((file === undefined) === (plan === undefined)) {
    throw ProblemError.of("usage", "Give either --tickets FILE, or --generate to have traffic made.");
  }
  if (file !== undefined) {
    const read = readTraffic(readText(file));
    if (!read.ok) throw new ProblemError(read.problem);
    return { tickets: read.tickets, from: basename(file) };
  }
  const tickets = generate(queue, await planOf(plan), seed);
  if (save !== undefined) writeText(save, tickets.map((ticket) => `${JSON.stringify(ticket)}\n`).join(""));
  const by = typeof plan === "string" ? basename(plan) : "the defaults";
  return { tickets, from: `made by ${by}, seed ${seed}` };
}

async function planOf(plan: string | true | undefined) {
  const { TrafficPlan } = await loadLab();
  return typeof plan === "string" ? readYamlAs(plan, TrafficPlan, "plan of traffic") : TrafficPlan.parse({});
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
