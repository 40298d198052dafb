import { connect } from "node:net";
import { performance } from "node:perf_hooks";
import { setTimeout as wait } from "node:timers/promises";
import type { Address } from "@yellow-harbor/protocol";

export interface Probed {
  readonly reached: boolean;
  readonly detail: string;
}

const TRY_MS = 1_000;
const PAUSE_MS = 100;

/** Opens a TCP connection to the address and closes it again; tries until it works or `patienceMs` have passed. */
export async function probe({ host, port }: Address, patienceMs: number, abort: AbortSignal): Promise<Probed> {
  const begin = performance.now();
  let attempts = 0;
  for (;;) {
    attempts += 1;
    const fault = await tryOnce(host, port);
    const ms = Math.round(performance.now() - begin);
    if (fault === undefined) return { reached: true, detail: `reached at attempt ${attempts} after ${ms} ms` };
    if (ms >= patienceMs || abort.aborted) {
      return {
        reached: false,
        detail: `${host}:${port} did not answer in ${attempts} attempts over ${ms} ms (${fault})`,
      };
    }
    await wait(PAUSE_MS, undefined, { signal: abort }).catch(() => undefined);
  }
}

function tryOnce(host: string, port: number): Promise<string | undefined> {
  return new Promise((resolve) => {
    const socket = connect({ host, port, timeout: TRY_MS });
    const finish = (fault: string | undefined) => {
      socket.destroy();
      resolve(fault);
    };
    socket.once("connect", () => finish(undefined));
    socket.once("timeout", () => finish("no answer"));
    socket.once("error", (error: NodeJS.ErrnoException) => finish(error.code ?? error.message));
  });
}
