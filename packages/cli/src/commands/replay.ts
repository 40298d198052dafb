import { ProblemError } from "@yellow-harbor/client";
import type { RoomHistory } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import { contextOf, wholeNumber } from "../context.ts";
import { eventLine } from "../output/event-line.ts";
import { TIME_FORMS, timeOf } from "../output/moment.ts";
import { roomLines } from "../output/room-lines.ts";
import type { Screen } from "../output/screen.ts";

type PointInTime = { readonly seq: number } | { readonly atMs: number };

export function addReplay(program: Command): void {
  program
    .command("replay")
    .description("show a room as it was at any moment, and what led to that")
    .argument("<room>", "code or id; also of a closed room")
    .addOption(
      new Option("--at <moment>", "number of an event, or a time: 2031-05-01T20:15:00Z, -90s, -5m, -2h").argParser(
        (typed) => momentOf(typed, Date.now()),
      ),
    )
    .option("--story <number>", "number of the room's events that are shown", wholeNumber("--story", 1, 200), 12)
    .action(async (room: string, { at, story }: { at?: PointInTime; story: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const past = await operator.history(room, { ...at, story });
      screen.show(past, () => render(past, screen));
      if (!screen.json) screen.note(nextStep(room, past));
    });
}

/** An event's number, a time, or how long ago. */
export function momentOf(typed: string, nowMs: number): PointInTime {
  if (/^[1-9]\d*$/.test(typed)) return { seq: Number(typed) };
  const atMs = timeOf(typed, nowMs);
  if (atMs !== undefined) return { atMs };
  throw ProblemError.of("usage", `--at ${typed} is no moment; give the number of an event, ${TIME_FORMS}.`);
}

function render({ room, closed, story }: RoomHistory, screen: Screen): string[] {
  const moment = story.at(-1);
  const lines = story.map((event) => eventLine(event, screen));
  return [
    ...lines,
    "",
    closed
      ? `Event ${moment?.seq} closed the room. The last time somebody was in it:`
      : `After event ${moment?.seq}, ${new Date(moment?.atMs ?? 0).toISOString()}:`,
    ...roomLines(room, screen, moment?.atMs ?? 0),
  ];
}

/** How to go one event on or back. */
function nextStep(room: string, { story, next }: RoomHistory): string {
  const before = story.at(-2)?.seq;
  const steps = [
    ...(before === undefined ? [] : [`back: yh replay ${room} --at ${before}`]),
    ...(next === undefined ? [] : [`on: yh replay ${room} --at ${next}`]),
  ];
  return steps.length === 0 ? "this is the room's only event" : steps.join("   ");
}
