import { FORMER_WAYS } from "../rooms/index.ts";
import type { HarborEvent } from "./event.ts";

/** An event as an older version wrote it, in today's form. Journals outlive versions, so this only ever grows. */
export function modernise(event: HarborEvent): HarborEvent {
  if (event.kind !== "room.opened" || event.ways !== undefined) return event;
  // Before 0.2 a room had four ways of its own and no build, and codes were numbered by the rooms opened.
  const former = event as unknown as Partial<typeof FORMER_WAYS>;
  const { leastPlayers = 2, graceMs = 30_000, countdownMs = 0, autoStart = false } = former;
  return {
    ...(event as HarborEvent & { kind: "room.opened" }),
    build: "",
    ways: { ...FORMER_WAYS, leastPlayers, graceMs, countdownMs, autoStart },
  };
}
