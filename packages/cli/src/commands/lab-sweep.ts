import { setImmediate } from "node:timers/promises";
import { ProblemError } from "@yellow-harbor/client";
import type { Change, Tried, Vary } from "@yellow-harbor/lab";
import type { QueueConfig } from "@yellow-harbor/service";
import type { Command } from "commander";
import { Document, isScalar, isSeq, visit } from "yaml";
import { type Screen, screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";
import { gathered } from "./lab-files.ts";
import {
  addTrafficOptions,
  conditionsOf,
  type RuleSet,
  ruleSetsOf,
  type TrafficOptions,
  trafficOf,
} from "./lab-queues.ts";

interface SweepOptions extends TrafficOptions {
  readonly vary: readonly string[];
  readonly take?: string;
  readonly report?: string;
}

interface Variant extends Tried {
  readonly queue: QueueConfig;
}

/** More sets of rules than this are refused: each plays the whole traffic. */
const SETS_MAX = 500;

const loadLab = () => import("@yellow-harbor/lab");

export function addLabSweep(lab: Command): void {
  const sweep = lab
    .command("sweep")
    .description(
      "try many values of a queue's rules on the same traffic, and find the best choices of wait and spread",
    );
  addTrafficOptions(sweep)
    .requiredOption(
      "--vary <path=values>",
      "what is tried, such as closeness.0.gap=t0.5,t1,t2: xN multiplies values, tN the seconds of a curve; may be repeated",
      gathered,
      [],
    )
    .option("--take <file>", "write what differs in the configuration at no longer a wait, for --rules")
    .option("--report <file>", "write a page with the plot")
    .action(async (options: SweepOptions, command: Command) => {
      await labSweep(options, screenFor(command.optsWithGlobals()));
    });
}

async function labSweep(options: SweepOptions, screen: Screen): Promise<void> {
  const { adviceOf, figuresOf, frontOf, play, SWEEP_COLUMNS, sweepReport, sweepRow } = await loadLab();
  const { queueRulesOf, SERVICE_VERSION } = await import("@yellow-harbor/service");
  const sets = await ruleSetsOf(options);
  const attribute = sets[0].queue.closeness[0]?.attribute;
  if (attribute === undefined) {
    throw ProblemError.of(
      "usage",
      `Queue ${options.queue} has no closeness: there is no spread to hold waits against.`,
    );
  }
  const { tickets, from } = await trafficOf(options, queueRulesOf(sets[0].queue));
  const conditions = await conditionsOf(options);
  const all = await variantsOf(options, sets);
  const tried: Variant[] = [];
  for (const { name, queue } of all) {
    const figures = figuresOf(tickets, play(queueRulesOf(queue), tickets, { ...conditions, seed: options.seed }));
    tried.push({ name, queue, figures });
    screen.note(`${tried.length} of ${all.length}: ${name}`);
    // Each takes a while: signals are heard in between.
    await setImmediate();
  }
  const front = frontOf(tried, attribute);
  const advice = adviceOf(tried, attribute);
  const best = advice.atSameWait ?? advice.atSameSpread;
  const change = best && { queues: { [options.queue]: difference(sets[0].queue, best.queue) } };
  if (options.take !== undefined) {
    if (change === undefined) screen.note(`Nothing better was found: ${options.take} is not written.`);
    else writeText(options.take, yamlOf(change));
  }
  if (options.report !== undefined) {
    const foot = { queue: options.queue, traffic: from, version: SERVICE_VERSION };
    writeText(options.report, sweepReport(tried, attribute, foot));
  }
  const named = (one: Variant) => ({ name: one.name, ...one.figures });
  const value = {
    queue: options.queue,
    traffic: from,
    attribute,
    tried: tried.map(named),
    front: front.map(({ name }) => name),
    advice: { text: advice.text, atSameWait: advice.atSameWait?.name, atSameSpread: advice.atSameSpread?.name, change },
  };
  screen.show(value, () => {
    const [own, ...others] = tried;
    const rows = [...(own ? [own] : []), ...front.filter((one) => one !== own)].map((one) => sweepRow(one, attribute));
    const columns = SWEEP_COLUMNS.map((heading, n) => ({
      heading,
      value: (row: readonly string[]) => row[n + 1] ?? "",
      align: "right" as const,
    }));
    return [
      `${others.length} sets of rules were tried beside those as configured. The best choices:`,
      "",
      ...table(rows, [{ heading: "", value: ([name]) => name }, ...columns], screen.width),
      "",
      ...advice.text,
      ...(change ? ["", "To take it over:", ...yamlOf(change).trimEnd().split("\n")] : []),
    ];
  });
}

/** The rules as configured first; then every set of rules with every combination of what is varied and that it has. */
async function variantsOf({ vary, queue: name }: SweepOptions, sets: readonly RuleSet[]): Promise<RuleSet[]> {
  const { combinations, readVary, withChange } = await loadLab();
  const varied = vary.map((text): Vary => {
    const read = readVary(text);
    if (read) return read;
    throw ProblemError.of(
      "usage",
      `--vary ${text} is none; give a path and values, such as closeness.0.gap=x0.5,x1,x2.`,
    );
  });
  const unused = varied.find((one) =>
    sets.every((set) => "missing" in withChange(set.queue, { path: one.path, value: "1" })),
  );
  if (unused) {
    throw ProblemError.of(
      "usage",
      `The rules have no ${unused.path.join(".")}; name a part that the queue or --rules has.`,
    );
  }
  const variants = sets.flatMap((set) => {
    const own = varied.filter(({ path }) => !("missing" in withChange(set.queue, { path, value: "1" })));
    return combinations(own).map((changes) => ({ set, changes }));
  });
  if (variants.length > SETS_MAX) {
    throw ProblemError.of("usage", `That is ${variants.length} sets of rules; try ${SETS_MAX} at most at once.`);
  }
  const all = await Promise.all(variants.map(({ set, changes }) => variantOf(name, set, changes)));
  // Rules that come about in several ways are played once.
  const own = sets[0] as RuleSet;
  const byRules = new Map(all.map((one) => [JSON.stringify(one.queue), one]));
  byRules.delete(JSON.stringify(own.queue));
  return [own, ...byRules.values()];
}

async function variantOf(name: string, set: RuleSet, changes: readonly Change[]): Promise<RuleSet> {
  const { withChange } = await loadLab();
  const { checkQueueChange } = await import("@yellow-harbor/service");
  let queue: unknown = set.queue;
  const labels: string[] = [];
  for (const change of changes) {
    const changed = withChange(queue, change);
    if ("wrong" in changed) throw ProblemError.of("usage", `${changed.wrong}; give xN, tN for a curve, or a value.`);
    // What changes nothing, such as the seconds of a flat curve, is not named.
    if ("missing" in changed || JSON.stringify(changed.value) === JSON.stringify(queue)) continue;
    queue = changed.value;
    labels.push(`${change.path.join(".")} ${change.value}`);
  }
  const label = labels.join(", ");
  const checked = checkQueueChange(queue, name, set.queue);
  if ("queue" in checked) return { name: `${set.name}${label === "" ? "" : `, ${label}`}`, queue: checked.queue };
  throw ProblemError.of("config-invalid", `With ${label} the rules cannot be used: ${checked.faults.join("; ")}.`);
}

/** The parts of a queue that are not as they were. */
function difference(before: QueueConfig, after: QueueConfig): Record<string, unknown> {
  const old = new Map<string, unknown>(Object.entries(before));
  return Object.fromEntries(
    Object.entries(after).filter(([key, value]) => JSON.stringify(value) !== JSON.stringify(old.get(key))),
  );
}

/** As somebody would write it: lists of values, and curves, on one line. */
function yamlOf(value: unknown): string {
  const document = new Document(value);
  const isShort = (node: unknown): boolean => isScalar(node) || (isSeq(node) && node.items.every(isShort));
  visit(document, {
    Seq: (_, node) => {
      if (isShort(node)) node.flow = true;
    },
  });
  return document.toString({ lineWidth: 0, flowCollectionPadding: false });
}
