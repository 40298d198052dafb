import { basename } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import type { QueueRules } from "@yellow-harbor/core";
import type { Conditions, TicketLine } from "@yellow-harbor/lab";
import type { QueueConfig } from "@yellow-harbor/service";
import type { Command } from "commander";
import { configProblem } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";
import { writeText } from "../output/write-text.ts";
import { gathered, readText, readYamlAs } from "./lab-files.ts";

/** What both commands that try the rules of a queue are given. */
export interface TrafficOptions {
  readonly config: string;
  readonly queue: string;
  readonly tickets: readonly string[];
  readonly generate?: string | true;
  readonly seed: number;
  readonly save?: string;
  readonly conditions?: string;
  readonly rules: readonly string[];
}

export interface RuleSet {
  readonly name: string;
  readonly queue: QueueConfig;
}

interface Traffic {
  readonly tickets: readonly TicketLine[];
  readonly from: string;
}

const loadLab = () => import("@yellow-harbor/lab");

export const addTrafficOptions = (command: Command): Command =>
  command
    .requiredOption("--config <file>", "configuration file with the queue")
    .requiredOption("--queue <name>", "queue whose rules are tried")
    .option("--tickets <file>", "traffic, one ticket per line in JSON; may be repeated, a day each", gathered, [])
    .option("--generate [plan]", "make traffic instead, from a YAML plan or the defaults")
    .option("--seed <number>", "seed of what is made and drawn", wholeNumber("--seed", 0, 2 ** 31 - 1), 1)
    .option("--save <file>", "write the made traffic to a file")
    .option("--conditions <file>", "places to play, who does not confirm, who does not come, in YAML")
    .option("--rules <file>", "other rules: what differs from the queue; may be repeated", gathered, []);

/** The queue's own rules first, then the others. */
export async function ruleSetsOf({ config, queue, rules }: TrafficOptions): Promise<[RuleSet, ...RuleSet[]]> {
  const { loadConfig, loadQueueChange } = await import("@yellow-harbor/service");
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
    return { name: basename(file).replace(/\.ya?ml$/, ""), queue: change.queue };
  });
  return [{ name: "as configured", queue: base }, ...others];
}

export async function trafficOf(options: TrafficOptions, queue: QueueRules): Promise<Traffic> {
  const { tickets: files, generate: plan } = options;
  if ((files.length === 0) === (plan === undefined)) {
    throw ProblemError.of("usage", "Give either --tickets FILE, or --generate to have traffic made.");
  }
  const traffic = files.length > 0 ? await readDays(files) : await made(options, queue);
  if (traffic.tickets.length > 0) return traffic;
  throw ProblemError.of("traffic-invalid", `${traffic.from} holds no ticket; give one a line.`);
}

async function readDays(files: readonly string[]): Promise<Traffic> {
  const { oneAfterTheOther, readTraffic } = await loadLab();
  const days = files.map((file) => {
    const read = readTraffic(readText(file));
    if (!read.ok) throw new ProblemError(read.problem);
    return read.tickets;
  });
  return { tickets: oneAfterTheOther(days), from: files.map((file) => basename(file)).join(", ") };
}

async function made({ generate: plan, seed, save }: TrafficOptions, queue: QueueRules): Promise<Traffic> {
  const { generate } = await loadLab();
  const tickets = generate(queue, await planOf(plan), seed);
  if (save !== undefined) writeText(save, tickets.map((ticket) => `${JSON.stringify(ticket)}\n`).join(""));
  const by = typeof plan === "string" ? basename(plan) : "the defaults";
  return { tickets, from: `made by ${by}, seed ${seed}` };
}

async function planOf(plan: string | true | undefined) {
  const { TrafficPlan } = await loadLab();
  return typeof plan === "string" ? readYamlAs(plan, TrafficPlan, "plan of traffic") : TrafficPlan.parse({});
}

/** What the traffic meets, where a file says so. */
export async function conditionsOf({ conditions: file }: TrafficOptions): Promise<{ conditions?: Conditions }> {
  if (file === undefined) return {};
  const { Conditions } = await loadLab();
  return { conditions: readYamlAs(file, Conditions, "description of conditions") };
}
