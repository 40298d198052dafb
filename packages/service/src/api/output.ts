import { open } from "node:fs/promises";
import { setTimeout as wait } from "node:timers/promises";
import { sizeOf } from "../machines/output-file.ts";
import { formerOutput } from "../machines/output-keeper.ts";

const LOOK_EVERY_MS = 150;
const CHUNK = 65_536;

export interface Following {
  /** Bytes from the end with which to begin. */
  readonly tailBytes: number;
  /** Whether to go on; asked each time the end was reached. */
  readonly goesOn: () => Promise<boolean>;
  readonly abort: AbortSignal;
}

/** Yields what stands at the end of a file, then what is added to it. A file that is not there yet is empty. */
export async function* followOutput(file: string, { tailBytes, goesOn, abort }: Following): AsyncGenerator<Buffer> {
  const size = await sizeOf(file);
  const former = formerOutput(file);
  const missing = Math.max(0, tailBytes - size);
  // What was put aside belongs before it.
  if (missing > 0) yield* readFrom(former, Math.max(0, (await sizeOf(former)) - missing));
  let at = Math.max(0, size - tailBytes);
  for (;;) {
    // Asked before reading: what was printed before the end is then read for certain.
    const isLast = !(await goesOn());
    // It was put aside meanwhile, and begins anew.
    if ((await sizeOf(file)) < at) at = 0;
    for await (const chunk of readFrom(file, at)) {
      at += chunk.length;
      yield chunk;
    }
    if (isLast || abort.aborted) return;
    await wait(LOOK_EVERY_MS, undefined, { signal: abort }).catch(() => undefined);
    if (abort.aborted) return;
  }
}

async function* readFrom(file: string, from: number): AsyncGenerator<Buffer> {
  const handle = await open(file, "r").catch(() => undefined);
  if (handle === undefined) return;
  try {
    for (let at = from; ; ) {
      const { bytesRead, buffer } = await handle.read(Buffer.alloc(CHUNK), 0, CHUNK, at);
      if (bytesRead === 0) return;
      at += bytesRead;
      yield buffer.subarray(0, bytesRead);
    }
  } finally {
    await handle.close();
  }
}
