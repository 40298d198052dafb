import { spawn } from "node:child_process";
import { join } from "node:path";
import { ROOT } from "./imports.ts";

export interface Ran {
  readonly code: number | null;
  readonly out: string;
  readonly err: string;
}

/** Runs yh as a user does, with lines for its standard input. */
export function runYh(
  args: readonly string[],
  { input = "", env = {} }: { input?: string; env?: Record<string, string> } = {},
): Promise<Ran> {
  return runNode([join(ROOT, "packages/cli/bin/yh.js"), ...args], { input, env });
}

export function runNode(
  args: readonly string[],
  { input = "", env = {} }: { input?: string; env?: Record<string, string> } = {},
): Promise<Ran> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, args, { env: { ...process.env, NO_COLOR: "1", ...env } });
    let out = "";
    let err = "";
    child.stdout.on("data", (chunk) => (out += chunk));
    child.stderr.on("data", (chunk) => (err += chunk));
    child.on("close", (code) => resolve({ code, out, err }));
    child.stdin.end(input);
  });
}
