// Small helpers of the start-up scripts. Node built-ins only: they run before anything is installed.
import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";

export const ROOT = fileURLToPath(new URL("..", import.meta.url));

/** Says something about the progress, on standard error: standard output belongs to results. */
export const say = (text) => process.stderr.write(`${text}\n`);

/**
 * Runs a program and resolves with its exit code. What it prints goes to standard error unless `stdout` says otherwise;
 * with `quiet` it is shown only when the program fails.
 */
export function run(command, args, { quiet = false, stdout = 2, env = {}, cwd = ROOT } = {}) {
  return new Promise((resolve) => {
    const stdio = quiet ? ["ignore", "pipe", "pipe"] : ["inherit", stdout, 2];
    const child = spawn(command, args, { cwd, stdio, env: { ...process.env, ...env } });
    let printed = "";
    child.stdout?.on("data", (chunk) => (printed += chunk));
    child.stderr?.on("data", (chunk) => (printed += chunk));
    child.once("error", (error) => {
      say(`${command} cannot be started: ${error.message}`);
      resolve(127);
    });
    child.once("close", (code, signal) => {
      if (quiet && code !== 0) process.stderr.write(printed);
      resolve(code ?? (signal ? 1 : 0));
    });
  });
}

/** How often whoever started this process is looked for. */
const LOOK_MS = 250;

/** Runs a program in the foreground, passing signals on; ends this process with its exit code. */
export async function become(command, args, env = {}) {
  const child = spawn(command, args, { cwd: ROOT, stdio: "inherit", env: { ...process.env, ...env } });
  // A signal to `npm run` ends npm and its shell, which pass nothing on: when they are gone, this is over as well.
  const parent = process.ppid;
  const looking = setInterval(() => {
    if (process.ppid === parent) return;
    clearInterval(looking);
    child.kill("SIGTERM");
  }, LOOK_MS);
  looking.unref();
  // Ctrl-C reaches the child too, by the terminal; it decides how to end.
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) {
    process.on(signal, () => {
      if (signal !== "SIGINT" || !process.stdin.isTTY) child.kill(signal);
    });
  }
  const code = await new Promise((resolve) =>
    child.once("close", (exitCode, signal) => resolve(exitCode ?? (signal ? 1 : 0))),
  );
  process.exit(code);
}

export const node = process.execPath;
export const bin = (name) => `${ROOT}node_modules/.bin/${name}`;
