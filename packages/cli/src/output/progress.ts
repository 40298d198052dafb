import { io } from "../io.ts";

const EVERY_MS = 1_000;

/** Says on standard error how far something is, once a second, where somebody looks at it. */
export function progressOf(text: (done: number) => string): (done: number) => void {
  const { err } = io();
  const isSeen = (err as { isTTY?: boolean }).isTTY === true;
  let saidAtMs = performance.now();
  return (done) => {
    const nowMs = performance.now();
    if (!isSeen || nowMs - saidAtMs < EVERY_MS) return;
    saidAtMs = nowMs;
    err.write(`\r\u001b[K${text(done)}`);
  };
}
