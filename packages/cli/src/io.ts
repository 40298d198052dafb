import { AsyncLocalStorage } from "node:async_hooks";
import type { Readable, Writable } from "node:stream";

/** Where a run of yh reads and writes, and with which code it ends: the process's own unless it is run within another. */
export interface Io {
  readonly in: Readable & { readonly isTTY?: boolean };
  readonly out: Writable & { readonly isTTY?: boolean; readonly columns?: number };
  readonly err: Writable;
  exitCode: number;
}

const given = new AsyncLocalStorage<Io>();

const ofProcess: Io = {
  get in() {
    return process.stdin;
  },
  get out() {
    return process.stdout;
  },
  get err() {
    return process.stderr;
  },
  get exitCode() {
    return Number(process.exitCode ?? 0);
  },
  set exitCode(code) {
    process.exitCode = code;
  },
};

/** Those of the run that asks. */
export const io = (): Io => given.getStore() ?? ofProcess;

/** Does something with other streams than the process's own. */
export const withIo = <T>(own: Io, work: () => Promise<T>): Promise<T> => given.run(own, work);
