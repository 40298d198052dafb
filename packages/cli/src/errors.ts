import { ProblemError } from "@yellow-harbor/client";
import { type ProblemCode, problem, problemTable } from "@yellow-harbor/protocol";
import { CommanderError } from "commander";
import pc from "picocolors";
import { io } from "./io.ts";
import { safeJson, safeLine } from "./output/screen.ts";

/** Ends the command: what happened and what to do, never a stack trace for a user's mistake. Returns the exit code. */
export function explainError(error: unknown, json: boolean): number {
  if (error instanceof CommanderError) {
    if (error.exitCode === 0) return 0;
    const detail = error.message.replace(/^error: /, "").replaceAll("\n", " ");
    if (json) io().out.write(`${JSON.stringify(problem("usage", `${detail}; yh help shows what there is.`))}\n`);
    return problemTable.usage.exit;
  }
  const told = problemOf(error);
  if (json) io().out.write(`${safeJson(JSON.stringify(told ?? problem("internal", String(error))))}\n`);
  if (told) {
    if (!json) io().err.write(`${pc.red(told.title)} (${told.code})\n${safeLine(told.detail)}\n`);
    return problemTable[told.code].exit;
  }
  io().err.write(`${pc.red("A fault of yh")}: please report it.\n${(error as Error).stack ?? error}\n`);
  return problemTable.internal.exit;
}

function problemOf(error: unknown) {
  if (error instanceof ProblemError) return error.problem;
  // The service's start errors carry a code of the same table.
  const { code, message } = (error ?? {}) as { code?: unknown; message?: string };
  if (typeof code === "string" && Object.hasOwn(problemTable, code)) return problem(code as ProblemCode, message ?? "");
  return undefined;
}
