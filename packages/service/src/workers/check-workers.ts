import { availableParallelism } from "node:os";
import type { Config } from "../config/schema.ts";
import { StartError } from "../start.ts";

/** Throws {@link StartError} when so many processes cannot be had, or make no sense here. */
export function checkWorkers(workers: number, { listen }: Config): void {
  const processors = availableParallelism();
  if (workers > processors) {
    const detail = `This computer has ${processors} processors, so more workers than that would only wait for each other; start the service with --workers ${processors} or fewer.`;
    throw new StartError("start-refused", detail);
  }
  if (workers > 1 && listen.tls !== undefined) {
    const detail =
      "Sockets with TLS cannot be handed to workers; let a proxy end TLS in front of the service, or start it with --workers 1.";
    throw new StartError("start-refused", detail);
  }
}
