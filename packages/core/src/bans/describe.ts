import type { BanEvent } from "../model/bans/events.ts";
import { assertNever } from "../model/decision.ts";
import { subjectText } from "./decide.ts";

export function describeBan(event: BanEvent): string {
  switch (event.kind) {
    case "ban.set": {
      const { by, reason, untilMs, atMs } = event.ban;
      const long = untilMs === null ? "for good" : `for ${Math.round((untilMs - atMs) / 360_000) / 10} h`;
      return `${by} bans ${subjectText(event.ban)} ${long}${reason === null ? "" : `: ${reason}`}.`;
    }
    case "ban.lifted":
      return `${event.by} lifts ban ${event.ban}.`;
    case "ban.ended":
      return `Ban ${event.ban} has ended.`;
    default:
      return assertNever(event);
  }
}
