import { createHmac } from "node:crypto";
import type { Entropy } from "@yellow-harbor/core";

/** The key of room codes follows from the harbor's secret, so that it is in no event, snapshot or backup. */
export function codeKeyOf(secret: Uint8Array): Entropy {
  const sum = createHmac("sha256", secret).update("room codes").digest();
  return [sum.readUInt32BE(0), sum.readUInt32BE(4), sum.readUInt32BE(8), sum.readUInt32BE(12)];
}
