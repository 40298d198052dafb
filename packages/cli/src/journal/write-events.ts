import { open, rename, rm } from "node:fs/promises";
import { ProblemError } from "@yellow-harbor/client";
import { safeJson } from "../output/screen.ts";
import type { Recorded } from "./pages.ts";

/** An event as one line of JSON. */
export const lineOf = ({ seq, atMs, kind, event }: Recorded): string =>
  safeJson(JSON.stringify({ seq, atMs, kind, ...event }));

const WRITTEN_AT_ONCE = 65_536;

/** Writes events to a file, a JSON object a line (JSON Lines). Nothing that looks whole is left when it did not end well. */
export async function writeEvents(
  file: string,
  events: AsyncIterable<Recorded>,
  progress: (written: number) => void,
): Promise<number> {
  const part = `${file}.part`;
  const handle = await open(part, "w", 0o600).catch((error: NodeJS.ErrnoException) => {
    throw ProblemError.of("usage", `${file} cannot be written: ${error.code}; check the path.`);
  });
  let written = 0;
  let waiting = "";
  try {
    for await (const event of events) {
      waiting += `${lineOf(event)}\n`;
      written += 1;
      progress(written);
      if (waiting.length < WRITTEN_AT_ONCE) continue;
      await handle.write(waiting);
      waiting = "";
    }
    await handle.write(waiting);
    await handle.sync();
    await handle.close();
    await rename(part, file);
    return written;
  } catch (error) {
    await handle.close().catch(() => undefined);
    await rm(part, { force: true });
    throw error;
  }
}
