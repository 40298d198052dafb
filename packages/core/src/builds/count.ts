import type { PoolEvent } from "../model/pools/events.ts";
import type { PoolsPart } from "../model/state.ts";
import { countFor } from "./apply.ts";

/** What the versions of a build line are judged by. Right after an event was applied. */
export function countEvent({ builds, pools }: PoolsPart, event: PoolEvent): void {
  const instance = pools.instances.get(event.instance);
  if (instance === undefined) return;
  switch (event.kind) {
    case "instance.launched":
      return countFor(builds, instance, "launched");
    case "instance.opened":
      return countFor(builds, instance, "opened");
    case "instance.reported":
    case "instance.match-ended":
      return countFor(builds, instance, "matches");
    case "instance.failed":
      return countFor(builds, instance, "failed");
    case "instance.exited":
      // One that has failed before is reported again when its process is gone.
      if (event.first) countFor(builds, instance, "failed");
      return;
    default:
      return;
  }
}
