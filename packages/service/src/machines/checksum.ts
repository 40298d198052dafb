import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { pipeline } from "node:stream/promises";

/** Why a file is another than it should be, or undefined. Read in pieces: a server may be large, and others wait. */
export async function whyFileDiffers(file: string | undefined, checksum: string): Promise<string | undefined> {
  // What is not there cannot be started either, and says so by itself.
  if (file === undefined) return undefined;
  const hash = createHash("sha256");
  await pipeline(createReadStream(file), hash);
  const found = `sha256:${hash.digest("hex")}`;
  return found === checksum ? undefined : `${file} has the checksum ${found}, not ${checksum}`;
}
