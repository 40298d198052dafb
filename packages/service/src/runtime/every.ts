import type { Logger } from "pino";

/**
 * Does something again and again, never twice at once. What goes wrong is logged, once until it goes well again, and
 * tried again at the next time: nothing that is done on the side may end the process. Returns how to stop it.
 */
export function every(
  ms: number,
  what: string,
  log: Pick<Logger, "error">,
  work: () => Promise<unknown> | undefined,
): () => void {
  let isUnderWay = false;
  let hasFailed = false;
  const once = async () => {
    if (isUnderWay) return;
    isUnderWay = true;
    try {
      await work();
      hasFailed = false;
    } catch (error) {
      if (!hasFailed) log.error({ err: error }, `${what} has failed; it is tried again`);
      hasFailed = true;
    } finally {
      isUnderWay = false;
    }
  };
  const timer = setInterval(() => void once(), ms);
  timer.unref();
  return () => clearInterval(timer);
}
