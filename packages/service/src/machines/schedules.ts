import { type PlanWindow, scheduledId } from "@yellow-harbor/core";
import type { ScheduledTime } from "@yellow-harbor/protocol";
import { Cron } from "croner";

/** What is wrong with a scheduled time, by the part that is: nothing when it can be followed. */
export function scheduleFaults({
  when,
  timeZone,
}: ScheduledTime): { readonly part: "when" | "timeZone"; readonly message: string }[] {
  try {
    new Intl.DateTimeFormat("en", { timeZone });
  } catch {
    return [{ part: "timeZone", message: "expected a zone of the IANA database, such as Europe/Berlin or UTC" }];
  }
  try {
    const next = cronOf({ when, timeZone }).nextRun();
    return next === null ? [{ part: "when", message: "expected a time that comes again; this one never does" }] : [];
  } catch (error) {
    const why = (error as Error).message.replace(/^CronPattern: /, "");
    return [{ part: "when", message: `expected a cron expression such as 0 18 * * 5,6: ${why}` }];
  }
}

const cronOf = ({ when, timeZone }: Pick<ScheduledTime, "when" | "timeZone">): Cron =>
  new Cron(when, { timezone: timeZone, mode: "5-part", paused: true });

/** Of each entry of a schedule the time that is on at a moment, or the next. */
export const windowsOf = (schedule: readonly ScheduledTime[], atMs: number): PlanWindow[] =>
  schedule.flatMap((entry, n) => {
    const { lastsMs, min, spare, when, timeZone } = entry;
    // One that began less than its length ago is still on.
    const begins = cronOf(entry).nextRun(new Date(atMs - lastsMs));
    if (begins === null) return [];
    const fromMs = begins.getTime();
    const why = `schedule ${when} (${timeZone})`;
    return [{ id: scheduledId(n), fromMs, untilMs: fromMs + lastsMs, min, spare, why }];
  });
