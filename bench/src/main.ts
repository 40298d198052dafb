import { cpus, totalmem } from "node:os";
import { parseArgs } from "node:util";
import { type Row, type RowResult, runRow, text } from "./row.ts";
import { boot } from "./rows/boot.ts";
import { cli } from "./rows/cli.ts";
import { commands } from "./rows/commands.ts";
import { commit } from "./rows/commit.ts";
import { consolePage } from "./rows/console.ts";
import { directory } from "./rows/directory.ts";
import { directoryQuery } from "./rows/directory-query.ts";
import { fanout } from "./rows/fanout.ts";
import { growth } from "./rows/growth.ts";
import { lobby } from "./rows/lobby.ts";
import { matchGrowth, matchPass, matchPrice12, matchPrice18, matchQuality, matchStep, slice } from "./rows/matching.ts";
import { memory } from "./rows/memory.ts";
import { allocate, launches, place } from "./rows/pools.ts";
import { recover } from "./rows/recover.ts";
import { restart } from "./rows/restart.ts";
import { parties, reservations } from "./rows/together.ts";
import { warmStart } from "./rows/warm-start.ts";
import { workers } from "./rows/workers.ts";

const rows: readonly Row[] = [
  ...[
    commands,
    workers,
    commit,
    boot,
    cli,
    fanout,
    directory,
    directoryQuery,
    memory,
    growth,
    lobby,
    parties,
    reservations,
    recover,
    restart,
    warmStart,
    consolePage,
  ],
  ...[allocate, launches, place],
  ...[matchPass, matchGrowth, matchStep, matchQuality, matchPrice12, matchPrice18, slice],
];

const { values, positionals } = parseArgs({
  options: { json: { type: "boolean", default: false } },
  allowPositionals: true,
});

const unknown = positionals.filter((name) => !rows.some((row) => row.name === name));
if (unknown.length > 0) {
  process.stderr.write(
    `There is no row ${unknown.join(", ")}; the rows are ${rows.map((row) => row.name).join(", ")}.\n`,
  );
  process.exit(2);
}

const chosen = positionals.length === 0 ? rows : rows.filter((row) => positionals.includes(row.name));
const results: RowResult[] = [];
for (const row of chosen) results.push(await runRow(row, (line) => process.stderr.write(`${line}\n`)));

const machine = {
  cpu: cpus()[0]?.model ?? "unknown",
  cores: cpus().length,
  memoryGiB: Math.round(totalmem() / 2 ** 30),
  node: process.version,
  platform: `${process.platform} ${process.arch}`,
};

if (values.json) console.log(JSON.stringify({ machine, results }, null, 2));
else for (const line of render()) console.log(line);
process.exit(0);

function render(): string[] {
  const lines = results.map(({ name, unit, ours, ceiling, ratio, goal, higherIsBetter, holds, spread, note }) => {
    const sign = higherIsBetter ? "at least" : "at most";
    const head = `${holds ? "holds " : "MISSED"}  ${name.padEnd(10)} ours ${text(ours).padStart(9)}   ceiling ${text(ceiling).padStart(9)} ${unit.padEnd(10)}`;
    const range = `ours ${spread.ours.map(text).join(" to ")}, ceiling ${spread.ceiling.map(text).join(" to ")}`;
    return [
      `${head}  ratio ${ratio.toFixed(2)} (goal ${sign} ${goal})`,
      `        ${range}`,
      ...(note ? [`        ${note}`] : []),
    ].join("\n");
  });
  const { cpu, cores, memoryGiB, node, platform } = machine;
  return [
    ...lines,
    `medians of interleaved rounds; ${cores} cores of ${cpu}, ${memoryGiB} GiB, node ${node}, ${platform}`,
  ];
}
