import type { CostRow, CostsView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";

const ROOMS_SHOWN = 8;

const PARTS = ["pools", "builds", "machines", "rooms"] as const;

export function addCost(program: Command): void {
  program
    .command("cost")
    .description("show how long instances have run, by pool, build, machine and room, and the cost")
    .option("--csv", "print comma-separated values")
    .action(async ({ csv }: { csv?: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const costs = await operator.costs();
      if (csv === true) for (const line of csvOf(costs)) screen.line(line);
      else screen.show(costs, () => render(costs, screen));
    });
}

const rowsOf = (costs: CostsView) =>
  PARTS.flatMap((part) => costs[part].map((row) => ({ ...row, what: part.slice(0, -1) })));

const csvOf = (costs: CostsView): string[] => [
  "what,id,seconds,cost",
  ...rowsOf(costs).map(({ what, id, seconds, cost }) => `${what},${id},${seconds},${cost ?? ""}`),
];

function render(costs: CostsView, { width }: Screen): string[] {
  // Of the rooms those that have taken the most: there may be a thousand.
  const rooms = [...costs.rooms].sort((a, b) => b.seconds - a.seconds);
  const rows = rowsOf({ ...costs, rooms: rooms.slice(0, ROOMS_SHOWN) });
  const more = rooms.length > ROOMS_SHOWN ? `, and ${rooms.length - ROOMS_SHOWN} more rooms with --csv or --json` : "";
  if (rows.length === 0) return ["Nothing has run yet. An instance counts from the moment its process runs."];
  const lines = table(
    rows,
    [
      { heading: "WHAT", value: ({ what }) => what },
      { heading: "ID", value: ({ id }) => pc.bold(id) },
      { heading: "INSTANCE-SECONDS", value: ({ seconds }) => seconds.toFixed(1), align: "right" },
      { heading: "COST", value: costText, align: "right" },
    ],
    width,
  );
  const hasPrice = rows.some(({ cost }) => cost !== undefined);
  return [
    ...lines,
    pc.dim(
      hasPrice ? `since the harbor was founded${more}` : `no price is configured: pools.NAME.pricePerSecond${more}`,
    ),
  ];
}

const costText = ({ cost }: CostRow) => (cost === undefined ? "-" : cost.toFixed(4));
