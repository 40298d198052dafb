import { connect } from "node:net";
import { performance } from "node:perf_hooks";
import { type ReachCause, reachCauseOf } from "@yellow-harbor/protocol";

export type Tried =
  | { readonly ok: true; readonly ms: number }
  | { readonly ok: false; readonly ms: number; readonly cause: ReachCause };

/** Opens a TCP connection once and closes it again. */
export function tryTcp(host: string, port: number, patienceMs: number): Promise<Tried> {
  const begin = performance.now();
  return new Promise((resolve) => {
    const socket = connect({ host, port });
    const finish = (result: { ok: true } | { ok: false; cause: ReachCause }) => {
      clearTimeout(timer);
      socket.destroy();
      resolve({ ...result, ms: Math.round(performance.now() - begin) });
    };
    // The socket's own timeout begins anew with each address that a name stands for.
    const timer = setTimeout(() => finish({ ok: false, cause: "no-answer" }), patienceMs);
    socket.once("connect", () => finish({ ok: true }));
    socket.once("error", (error) => finish({ ok: false, cause: causeOf(error) }));
  });
}

/** A name with several addresses fails with one error for each of them. */
function causeOf(error: Error): ReachCause {
  const { errors } = error as { errors?: Error[] };
  const causes = (errors ?? [error]).map(reachCauseOf);
  return causes.find((cause) => cause !== "no-route") ?? causes[0] ?? "unexplained";
}
