import type { BuildEvent } from "../model/builds/events.ts";
import { assertNever } from "../model/decision.ts";
import { percent } from "./roll-out.ts";

/** The event in a sentence. */
export function describeBuild(event: BuildEvent): string {
  const { line, version } = event;
  switch (event.kind) {
    case "build.added":
      return event.rollOut === null
        ? `Build ${line} ${version} is current.`
        : `Build ${line} ${version} is rolled out, at first to ${percent(event.rollOut.steps[0] ?? 1)} of new instances.`;
    case "build.stepped":
      return `Build ${line} ${version} goes on to ${percent(event.share)} of new instances: ${event.why}.`;
    case "build.promoted":
      return `Build ${line} ${version} is current: ${event.why}.`;
    case "build.rolled-back":
      return `Build ${line} ${version} is rolled back${event.to === null ? "" : ` to ${event.to}`}: ${event.why}.`;
    default:
      return assertNever(event);
  }
}
