import { parentPort } from "node:worker_threads";
import { ApartMatcher, type LookForMatches } from "@yellow-harbor/core";

/** What was found, and how long it took. */
export interface Answer extends ReturnType<ApartMatcher["look"]> {
  readonly queue: string;
  readonly look: string;
  readonly tookMs: number;
}

if (parentPort === null) throw new Error("this file is started as a thread");
const port = parentPort;
const matcher = new ApartMatcher();

port.on("message", (asked: LookForMatches) => {
  const beganMs = performance.now();
  const found = matcher.look(asked);
  const { queue, look } = asked;
  port.postMessage({ ...found, queue, look, tookMs: performance.now() - beganMs } satisfies Answer);
});
