import { pauseMs } from "@yellow-harbor/protocol";
import { ProblemError } from "../problem-error.ts";
import type { Backoff } from "./backoff.ts";
import { mayRetry } from "./retry.ts";

/** The first hello. Who waits in line and loses the connection comes again, with its place. `token` is what it was told last. */
export async function beginInLine(
  open: () => Promise<void>,
  { token, backoff }: { readonly token: () => string | undefined; readonly backoff: Backoff | undefined },
): Promise<void> {
  let before: string | undefined;
  for (let attempt = 1; ; attempt++) {
    try {
      return await open();
    } catch (error) {
      const now = token();
      const isInLine = now !== undefined && error instanceof ProblemError && mayRetry(error.problem);
      // It has waited on since: the line goes on, and so do the attempts.
      if (now !== before) attempt = 1;
      before = now;
      if (!isInLine || backoff === undefined || attempt > backoff.attempts) throw error;
      const inMs = pauseMs(attempt, backoff, Math.random);
      await new Promise((resolve) => setTimeout(resolve, inMs));
    }
  }
}
