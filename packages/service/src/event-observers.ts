import { logEvents } from "./log-events.ts";
import type { Logs } from "./logs.ts";
import type { EventObserver } from "./metrics/meters.ts";
import type { Tracing } from "./tracing/tracing.ts";

/** Who hears of each event once it is durable, beside those who count. */
export function eventObservers(logs: Logs, tracing: Tracing | undefined): readonly EventObserver[] {
  const lines = logEvents(logs);
  const log: EventObserver = (event, { seq }) => lines(event, seq);
  if (tracing === undefined) return [log];
  return [log, (event, { atMs }, state) => tracing.happened(event, atMs, state)];
}
