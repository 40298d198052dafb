import { type ChildProcess, fork } from "node:child_process";
import { fileURLToPath } from "node:url";

/** A process of this benchmark, that answers one message with one message. */
export interface Helper {
  readonly pid: number;
  ask<T>(message: object): Promise<T>;
  end(): Promise<void>;
}

/** Starts one of the scripts of this folder as a process of its own. */
export function startHelper(script: string, args: readonly string[] = [], nodeArgs: readonly string[] = []): Helper {
  const child: ChildProcess = fork(fileURLToPath(new URL(`./${script}.js`, import.meta.url)), [...args], {
    execArgv: [...process.execArgv, ...nodeArgs],
    stdio: ["ignore", "inherit", "inherit", "ipc"],
  });
  const ended = new Promise<void>((resolve) => child.once("exit", () => resolve()));
  return {
    pid: child.pid ?? 0,
    ask: (message) =>
      new Promise((resolve, reject) => {
        const fail = () => reject(new Error(`${script} ended before it answered`));
        child.once("exit", fail);
        child.once("message", (answer) => {
          child.off("exit", fail);
          resolve(answer as never);
        });
        child.send(message);
      }),
    end: async () => {
      child.kill("SIGTERM");
      await ended;
    },
  };
}
