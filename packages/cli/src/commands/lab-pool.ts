import { basename } from "node:path";
import { ProblemError } from "@yellow-harbor/client";
import type { DemandLine, PoolPolicy, RanPolicy } from "@yellow-harbor/lab";
import type { Config, PoolConfig } from "@yellow-harbor/service";
import type { Command } from "commander";
import { configProblem } from "../config/read-config.ts";
import { wholeNumber } from "../context.ts";
import { type Screen, screenFor } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { writeText } from "../output/write-text.ts";
import { gathered, readText, readYamlAs } from "./lab-files.ts";

interface PoolOptions {
  readonly config: string;
  readonly pool: string;
  readonly demand?: string;
  readonly generate?: string | true;
  readonly machines?: string;
  readonly seed: number;
  readonly save?: string;
  readonly policy: readonly string[];
  readonly report?: string;
}

const loadLab = () => import("@yellow-harbor/lab");

export function addLabPool(lab: Command): void {
  lab
    .command("pool")
    .description("simulate a pool's plan with recorded or made demand in virtual time, and compare policies")
    .requiredOption("--config <file>", "configuration file with the pool")
    .requiredOption("--pool <name>", "pool whose plan is tried")
    .option("--demand <file>", "demand, one room per line in JSON; see yh journal demand")
    .option("--generate [plan]", "make demand instead, from a YAML plan or the defaults")
    .option("--machines <file>", "boot times, failures and price of the simulated machines, in YAML")
    .option("--seed <number>", "seed of demand and machines", wholeNumber("--seed", 0, 2 ** 31 - 1), 1)
    .option("--save <file>", "write the made demand to a file")
    .option("--policy <file>", "another policy: what differs from the pool; may be repeated", gathered, [])
    .option("--report <file>", "write a page with figures and plots")
    .action(async (options: PoolOptions, command: Command) => {
      await labPool(options, screenFor(command.optsWithGlobals()));
    });
}

async function labPool(options: PoolOptions, screen: Screen): Promise<void> {
  const { Machines, playPool, poolComparison, poolFigures, poolReport } = await loadLab();
  const policies = await policiesOf(options);
  const { demand, from } = await demandOf(options);
  if (demand.length === 0) throw ProblemError.of("traffic-invalid", `${from} holds no demand; give a room a line.`);
  const { machines: file, seed, pool } = options;
  const machines = file === undefined ? Machines.parse({}) : readYamlAs(file, Machines, "description of machines");
  const ran: RanPolicy[] = policies.map(({ name, policy }) => {
    const played = playPool(policy, demand, machines, seed);
    return { name, max: policy.max, played, figures: poolFigures(played, demand.length, machines) };
  });
  if (options.report !== undefined) {
    const { SERVICE_VERSION } = await import("@yellow-harbor/service");
    const { median } = machines.bootS;
    const on = `${file === undefined ? "the defaults" : basename(file)}, half open within ${median} s, seed ${seed}`;
    writeText(options.report, poolReport(ran, { pool, demand: from, machines: on, version: SERVICE_VERSION }));
  }
  screen.show({ pool, demand: from, policies: ran.map(({ name, figures }) => ({ name, ...figures })) }, () => {
    const columns = ran.map(({ name }, n) => ({
      heading: name,
      value: (row: readonly string[]) => row[n + 1] ?? "",
      align: "right" as const,
    }));
    const rows = poolComparison(ran.map(({ figures }) => figures));
    return table(rows, [{ heading: "", value: ([label]) => label }, ...columns], screen.width);
  });
  if (!screen.json && options.report === undefined) {
    screen.note("--report FILE.html writes a page with plots; --policy FILE compares.");
  }
}

/** The pool's own policy first, then the others. */
async function policiesOf({ config, pool, policy }: PoolOptions): Promise<{ name: string; policy: PoolPolicy }[]> {
  const { loadConfig, loadPoolChange } = await import("@yellow-harbor/service");
  const loaded = loadConfig(config);
  if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
  const { builds } = loaded.config;
  const base = loaded.config.pools[pool];
  if (base === undefined) {
    const accepted = Object.keys(loaded.config.pools);
    const detail = `${loaded.file} has no pool ${pool}; it has ${accepted.join(", ") || "none"}.`;
    throw ProblemError.of("pool-unknown", detail, { accepted });
  }
  const others = policy.map((file) => {
    const change = loadPoolChange(file, base);
    if (!change.ok) throw configProblem(change.file, change.faults);
    return { name: basename(file).replace(/\.ya?ml$/, ""), policy: policyOf(change.pool, builds) };
  });
  return [{ name: "as configured", policy: policyOf(base, builds) }, ...others];
}

const policyOf = ({ max, plan, reuse, build }: PoolConfig, builds: Config["builds"]): PoolPolicy => {
  const { rooms = 1, berths } = builds[build] ?? {};
  return { max, plan: plan ?? null, reuse, roomsEach: rooms, berths: berths ?? null };
};

async function demandOf({ demand: file, generate, seed, save }: PoolOptions): Promise<{
  demand: readonly DemandLine[];
  from: string;
}> {
  const { DemandPlan, generateDemand, readDemand } = await loadLab();
  if ((file === undefined) === (generate === undefined)) {
    throw ProblemError.of("usage", "Give either --demand FILE, or --generate to have demand made.");
  }
  if (file !== undefined) {
    const read = readDemand(readText(file));
    if (!read.ok) throw new ProblemError(read.problem);
    return { demand: read.demand, from: basename(file) };
  }
  const plan = typeof generate === "string" ? readYamlAs(generate, DemandPlan, "plan of demand") : DemandPlan.parse({});
  const demand = generateDemand(plan, seed);
  if (save !== undefined) writeText(save, demand.map((line) => `${JSON.stringify(line)}\n`).join(""));
  return {
    demand,
    from: `made by ${typeof generate === "string" ? basename(generate) : "the defaults"}, seed ${seed}`,
  };
}
