import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { AuditCheck, AuditEntry } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import { type Screen, safeJson } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

interface AuditOptions {
  readonly limit: number;
  readonly by?: string;
  readonly action?: string;
  readonly check?: boolean;
  readonly export?: boolean;
}

export function addAudit(program: Command): void {
  program
    .command("audit")
    .description("show what operators did: who, from where, what, on whom, why, with which result")
    .option("--limit <number>", "the newest so many", wholeNumber("--limit", 1, 1_000), 30)
    .option("--by <name>", "only what this key's holder did")
    .option("--action <action>", "only this action, such as banPlayer")
    .option("--check", "hold every entry against the log's sums instead")
    .option("--export", "print all entries as JSON Lines instead, the newest first")
    .action(async ({ limit, by, action, check, export: all }: AuditOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const wanted = { ...(by !== undefined && { name: by }), ...(action !== undefined && { action }) };
      if (check) return showCheck(await operator.checkAudit(), screen);
      if (all) return printAll(operator, wanted);
      screen.show(await operator.audit({ ...wanted, limit }), ({ entries, next }) =>
        render(entries, next !== undefined, screen),
      );
    });
}

function showCheck(check: AuditCheck, screen: Screen): void {
  screen.show(check, ({ entries, firstSeq, lastSeq, head, fault }) => [
    entries === 0 ? "The audit log is empty." : `${entries} entries, ${firstSeq} to ${lastSeq}.`,
    `sum  ${head}`,
    fault === undefined ? pc.green("Every entry is there as it was written.") : pc.red(`It was changed: ${fault}.`),
  ]);
  if (check.fault !== undefined) {
    throw ProblemError.of("data-unusable", `The audit log is not what was written: ${check.fault}.`);
  }
}

async function printAll(operator: OperatorClient, wanted: { name?: string; action?: string }): Promise<void> {
  let before: number | undefined;
  do {
    const page = await operator.audit({ ...wanted, limit: 1_000, ...(before !== undefined && { before }) });
    for (const entry of page.entries) io().out.write(`${safeJson(JSON.stringify(entry))}\n`);
    before = page.next;
  } while (before !== undefined);
}

function render(entries: readonly AuditEntry[], hasMore: boolean, { width, absolute }: Screen): string[] {
  if (entries.length === 0) return ["No entries: no operator has changed anything yet."];
  const now = Date.now();
  const lines = table(
    [...entries].reverse(),
    [
      { heading: "#", value: (one) => String(one.seq), align: "right" },
      { heading: "WHEN", value: (one) => when(one.atMs, now, absolute) },
      { heading: "WHO", value: ({ actor }) => pc.bold(actor.name) },
      { heading: "BY", value: ({ actor }) => actor.by },
      { heading: "FROM", value: (one) => one.from },
      { heading: "ACTION", value: (one) => one.action },
      { heading: "ON", value: (one) => one.target ?? "-" },
      { heading: "RESULT", value: (one) => (one.result === "done" ? pc.green(one.result) : pc.yellow(one.result)) },
      { heading: "REASON", value: (one) => one.reason ?? "-" },
    ],
    width,
  );
  const count = `${entries.length} ${entries.length === 1 ? "entry" : "entries"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and older ones: raise --limit` : count)];
}
