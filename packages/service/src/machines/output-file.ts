import { open, stat } from "node:fs/promises";

/** Bytes of a file; 0 of one that is not there. */
export const sizeOf = (file: string): Promise<number> =>
  stat(file).then(
    ({ size }) => size,
    () => 0,
  );

/** At most so many bytes of a file from a place on; none of one that is not there. */
export async function readPart(file: string, from: number, most: number): Promise<Buffer> {
  const handle = await open(file, "r").catch(() => undefined);
  if (handle === undefined) return Buffer.alloc(0);
  try {
    const buffer = Buffer.alloc(most);
    const { bytesRead } = await handle.read(buffer, 0, most, from);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
