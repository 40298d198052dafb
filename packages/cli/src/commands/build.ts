import { readFileSync } from "node:fs";
import { setTimeout as wait } from "node:timers/promises";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { BuildSpecInput, BuildView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { parse } from "yaml";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

interface AddOptions {
  readonly version: string;
  readonly spec?: string;
  readonly steps?: string;
  readonly enough?: number;
  readonly failures?: string;
  readonly wait?: boolean;
  readonly timeout: number;
}

export function addBuild(program: Command): void {
  const build = program.command("build").description("list versions of dedicated servers, and roll them out");
  build
    .command("list")
    .description("list all versions, the newest of each line first")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.builds(), ({ builds }) => render(builds, screen));
    });
  build
    .command("add")
    .description(
      "register a new version: it is rolled out step by step, and rolled back by itself when too many instances fail",
    )
    .argument("<line>", "build line, as the configuration names it")
    .requiredOption("--version <version>", "its version")
    .option("--spec <file>", "YAML with what differs from the current version: command, args, environment ...")
    .option("--steps <shares>", "shares of new instances, one after the other, such as 0.1,0.5,1")
    .option("--enough <number>", "successes that are needed before the next step", wholeNumber("--enough", 1, 10_000))
    .option("--failures <share>", "share of failures above which it is rolled back, such as 0.2")
    .option("--wait", "wait until it is current; exit code 4 when it was rolled back instead")
    .option("--timeout <seconds>", "with --wait: give up after this long", wholeNumber("--timeout", 1, 86_400), 3_600)
    .action(async (line: string, options: AddOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { builds } = await operator.builds();
      const current = builds.find((one) => one.line === line && one.state === "current");
      const base = current === undefined ? {} : withoutVersion(current);
      const spec = { ...base, ...readSpec(options.spec), version: options.version } as BuildSpecInput;
      const added = await operator.addBuild(line, spec, rollOutOf(options));
      if (options.wait !== true) return screen.show(added, (one) => sentences(one));
      if (!screen.json) for (const text of sentences(added)) screen.note(text);
      const settled = await settledBuild(operator, added, options.timeout, screen);
      screen.show(settled, (one) => sentences(one));
      if (settled.state !== "current") io().exitCode = 4;
    });
  for (const [name, to, about] of [
    ["promote", "promoted", "make a version current at once"],
    ["roll-back", "rolled-back", "roll a version back; its instances play their matches to the end"],
  ] as const) {
    build
      .command(name)
      .description(about)
      .argument("<line>", "build line")
      .argument("<version>", "version")
      .option("--reason <text>", "reason; it is kept in the journal and with the version")
      .action(async (line: string, version: string, { reason }: { reason?: string }, command: Command) => {
        const { screen, operator } = contextOf(command);
        screen.show(await operator.changeRollOut(line, version, to, reason), (one) => sentences(one));
      });
  }
}

const withoutVersion = ({ spec: { version: _, checksum: __, ...spec } }: BuildView) => spec;

function readSpec(file: string | undefined): object {
  if (file === undefined) return {};
  try {
    const values: unknown = parse(readFileSync(file, "utf8"));
    if (typeof values === "object" && values !== null && !Array.isArray(values)) return values;
  } catch (error) {
    throw ProblemError.of("usage", `--spec ${file} cannot be read: ${(error as Error).message}`);
  }
  throw ProblemError.of("usage", `--spec ${file} is not a map of what differs; write command: and args:, for example.`);
}

function rollOutOf({ steps, enough, failures }: AddOptions) {
  const shares = steps?.split(",").map(Number);
  if (shares?.some(Number.isNaN)) throw ProblemError.of("usage", `--steps ${steps} are not shares such as 0.1,0.5,1.`);
  const maxFailures = failures === undefined ? undefined : Number(failures);
  if (Number.isNaN(maxFailures)) throw ProblemError.of("usage", `--failures ${failures} is not a share such as 0.2.`);
  return {
    ...(shares && { steps: shares }),
    ...(enough !== undefined && { enough }),
    ...(maxFailures !== undefined && { maxFailures }),
  };
}

/** Looks until a version is no canary any more. */
async function settledBuild(
  operator: OperatorClient,
  added: BuildView,
  timeoutS: number,
  screen: Screen,
): Promise<BuildView> {
  let last = added;
  for (const begin = performance.now(); last.state === "canary"; ) {
    if (performance.now() - begin > timeoutS * 1_000) {
      throw ProblemError.of(
        "wait-over",
        `After ${timeoutS} s ${last.line} ${last.version} is still ${last.why}; it goes on by itself.`,
      );
    }
    await wait(500);
    const { builds } = await operator.builds();
    const now = builds.find(({ line, version }) => line === added.line && version === added.version) ?? last;
    if (now.why !== last.why && !screen.json) screen.note(`${now.line} ${now.version} ${now.why}`);
    last = now;
  }
  return last;
}

const sentences = ({ line, version, state, why, share }: BuildView): string[] => [
  `${pc.bold(`${line} ${version}`)} is ${state}: ${why}.`,
  ...(share !== undefined && share < 1 ? [pc.dim("how it goes: yh build list; now at once: yh build promote")] : []),
];

function render(builds: readonly BuildView[], { width, absolute }: Screen): string[] {
  if (builds.length === 0) return ["No builds. They stand under builds in the configuration, or come by yh build add."];
  const now = Date.now();
  const lines = table(
    builds,
    [
      { heading: "BUILD", value: (one) => pc.bold(one.line) },
      { heading: "VERSION", value: (one) => one.version },
      { heading: "STATE", value: (one) => stateOf(one) },
      { heading: "RUNNING", value: (one) => String(one.running), align: "right" },
      { heading: "LAUNCHED", value: (one) => String(one.launched), align: "right" },
      { heading: "FAILED", value: (one) => String(one.failed), align: "right" },
      { heading: "MATCHES", value: (one) => String(one.matches), align: "right" },
      { heading: "ADDED", value: (one) => when(one.addedAtMs, now, absolute) },
      { heading: "WHY", value: (one) => one.why },
    ],
    width,
  );
  return [...lines, pc.dim(`${builds.length} ${builds.length === 1 ? "version" : "versions"}`)];
}

function stateOf({ state }: BuildView): string {
  if (state === "current") return pc.green(state);
  return state === "canary" || state === "rolled-back" ? pc.yellow(state) : pc.dim(state);
}
