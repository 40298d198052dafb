import { createHmac } from "node:crypto";

/**
 * Signs a request as the Standard Webhooks specification has it: HMAC-SHA256 over id, time and body, in base64, one signature
 * for each secret. `atS` is in seconds since 1970.
 */
export function signatureHeaders(
  secrets: readonly Buffer[],
  { id, atS, body }: { readonly id: string; readonly atS: number; readonly body: string },
): Readonly<Record<string, string>> {
  const signatures = secrets.map((secret) => {
    const sum = createHmac("sha256", secret).update(`${id}.${atS}.${body}`).digest("base64");
    return `v1,${sum}`;
  });
  return { "webhook-id": id, "webhook-timestamp": String(atS), "webhook-signature": signatures.join(" ") };
}

/** The secrets of those names; undefined when one of them cannot be read, or is too short or too long. */
export function secretsNamed(
  names: readonly string[],
  secretNamed: (name: string) => string | undefined,
): readonly Buffer[] | undefined {
  const secrets = names.flatMap((name) => secretBytes(secretNamed(name) ?? "") ?? []);
  return secrets.length === names.length ? secrets : undefined;
}

const PREFIX = "whsec_";
/** Bytes that a secret has at least, and at most. */
const MIN = 24;
const MAX = 64;

/** The bytes of a secret: base64 behind `whsec_`, or else the text itself. Undefined when they are too few or too many. */
export function secretBytes(text: string): Buffer | undefined {
  const bytes = text.startsWith(PREFIX) ? Buffer.from(text.slice(PREFIX.length), "base64") : Buffer.from(text);
  return bytes.length >= MIN && bytes.length <= MAX ? bytes : undefined;
}
