import { open, readFile, stat } from "node:fs/promises";
import type { Output } from "./driver.ts";
import { cutNote, formerOutput } from "./output-keeper.ts";

/** What an instance prints to a stream, in a file of this computer. */
export const outputOf = (file: string): Output => {
  const pathOf = (part: "now" | "former") => (part === "now" ? file : formerOutput(file));
  const size: Output["size"] = (part) => (part === "cut" ? cutBefore(file) : sizeOf(pathOf(part)));
  return { size, read: (part, from, max) => readPart(pathOf(part), from, max) };
};

/** Nothing was ever printed. */
export const noOutput: Output = { size: async () => 0, read: async () => Buffer.alloc(0) };

/** Bytes of a file; 0 of one that is not there. */
const sizeOf = (file: string): Promise<number> =>
  stat(file).then(
    ({ size }) => size,
    () => 0,
  );

const cutBefore = (file: string): Promise<number> =>
  readFile(cutNote(file), "utf8").then(
    (text) => Number(text) || 0,
    () => 0,
  );

/** At most so many bytes of a file from a place on; none of one that is not there. */
async function readPart(file: string, from: number, max: number): Promise<Buffer> {
  const handle = await open(file, "r").catch(() => undefined);
  if (handle === undefined) return Buffer.alloc(0);
  try {
    const buffer = Buffer.alloc(max);
    const { bytesRead } = await handle.read(buffer, 0, max, from);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
