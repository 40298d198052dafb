import { setTimeout as wait } from "node:timers/promises";
import { type Output, OutputAwayError } from "../machines/driver.ts";

const LOOK_EVERY_MS = 150;
const CHUNK = 65_536;

export interface Following {
  /** Bytes from the end with which to begin. */
  readonly tailBytes: number;
  /** Whether to go on; asked each time the end was reached. */
  readonly goesOn: () => Promise<boolean>;
  readonly abort: AbortSignal;
}

/** Yields what stands at the end of an output, then what is added to it. */
export async function* followOutput(output: Output, following: Following): AsyncGenerator<Buffer> {
  try {
    yield* follow(output, following);
  } catch (error) {
    if (!(error instanceof OutputAwayError)) throw error;
    yield Buffer.from(`(${error.message})\n`);
  }
}

async function* follow(output: Output, { tailBytes, goesOn, abort }: Following): AsyncGenerator<Buffer> {
  const size = await output.size("now");
  const missing = Math.max(0, tailBytes - size);
  // What was put aside belongs before it.
  if (missing > 0) yield* readOn(output, "former", Math.max(0, (await output.size("former")) - missing));
  let at = Math.max(0, size - tailBytes);
  for (;;) {
    // Asked before reading: what was printed before the end is then read for certain.
    const isLast = !(await goesOn());
    // It was put aside meanwhile, and begins anew.
    if ((await output.size("now")) < at) at = 0;
    for await (const chunk of readOn(output, "now", at)) {
      at += chunk.length;
      yield chunk;
    }
    if (isLast || abort.aborted) return;
    await wait(LOOK_EVERY_MS, undefined, { signal: abort }).catch(() => undefined);
    if (abort.aborted) return;
  }
}

async function* readOn(output: Output, part: "now" | "former", from: number): AsyncGenerator<Buffer> {
  for (let at = from; ; ) {
    const chunk = await output.read(part, at, CHUNK);
    if (chunk.length === 0) return;
    at += chunk.length;
    yield chunk;
  }
}
