import { spawn } from "node:child_process";
import { join } from "node:path";
import { Readable, Writable } from "node:stream";
import { withIo } from "../packages/cli/src/io.ts";
import { run } from "../packages/cli/src/main.ts";
import { ROOT } from "./imports.ts";

export interface Ran {
  readonly code: number | null;
  readonly out: string;
  readonly err: string;
}

/** All that is written, as text. */
class Kept extends Writable {
  text = "";

  override _write(chunk: Buffer, _encoding: string, done: () => void): void {
    this.text += String(chunk);
    done();
  }
}

/** Runs yh within this process, with lines for its standard input: what it does is the same, and it need not start. */
export async function runYh(args: readonly string[], { input = "" }: { input?: string } = {}): Promise<Ran> {
  const own = { in: Readable.from([input]), out: new Kept(), err: new Kept(), exitCode: 0 };
  await withIo(own, () => run([process.execPath, "yh", ...args]));
  return { code: own.exitCode, out: own.out.text, err: own.err.text };
}

interface Spawning {
  readonly input?: string;
  readonly env?: Record<string, string>;
}

/** Runs yh as a user does, in a process of its own. */
export const spawnYh = (args: readonly string[], spawning: Spawning = {}): Promise<Ran> =>
  runNode([join(ROOT, "packages/cli/bin/yh.js"), ...args], spawning);

export function runNode(args: readonly string[], { input = "", env = {} }: Spawning = {}): Promise<Ran> {
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
