import { createHmac } from "node:crypto";

/** The operator's token follows from the harbor's secret: nothing more to keep, and a backup has it too. */
export function operatorTokenOf(secret: Uint8Array): string {
  return createHmac("sha256", secret).update("operator token").digest("base64url");
}
