import { io } from "../io.ts";

const EVERY_MS = 1_000;
/** To the beginning of the line, and nothing behind (ECMA-48, section 8.3.41). */
const OVER = "\r\u001b[K";

const isSeen = (): boolean => (io().err as { isTTY?: boolean }).isTTY === true;

/** Says on standard error how far something is, once a second, where somebody looks at it. */
export function progressOf(text: (done: number) => string): (done: number) => void {
  const { err } = io();
  if (!isSeen()) return () => undefined;
  let saidAtMs = performance.now();
  return (done) => {
    const nowMs = performance.now();
    if (nowMs - saidAtMs < EVERY_MS) return;
    saidAtMs = nowMs;
    err.write(`${OVER}${text(done)}`);
  };
}

/** Says on standard error what one waits for, and from then on for how long; the line is gone once it is over. */
export async function waitingFor<T>(what: string, work: () => Promise<T>): Promise<T> {
  const { err } = io();
  if (!isSeen()) return work();
  const begin = performance.now();
  const say = () => void err.write(`${OVER}${what} ... ${Math.round((performance.now() - begin) / 1_000)} s`);
  // Said before: some of the work lets no timer fire.
  say();
  const timer = setInterval(say, EVERY_MS);
  try {
    return await work();
  } finally {
    clearInterval(timer);
    err.write(OVER);
  }
}
