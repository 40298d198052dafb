import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import { secretNamed } from "../machines/secrets.ts";
import type { Tracing } from "./tracing.ts";

/** The tracing that a configuration asks for; what it needs is loaded only then. */
export async function tracingOf(
  { tracing, secrets, harbor }: Config,
  folder: string,
  log: Pick<Logger, "warn">,
): Promise<Tracing | undefined> {
  if (tracing === undefined) return undefined;
  const { openTracing } = await import("./open-tracing.ts");
  const token = tracing.secret === undefined ? undefined : secretNamed(tracing.secret, { secrets, folder });
  return openTracing({ config: tracing, harbor, token, log });
}
