import type { PlayerHistory } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { eventLine } from "../output/event-line.ts";
import type { Screen } from "../output/screen.ts";
import { when } from "../output/time.ts";
import { personNamed } from "../who.ts";

export function addPlayerHistory(player: Command): void {
  player
    .command("history")
    .description("tell what a player did, what happened to it, and what it was refused lately")
    .argument("<player>", "name, id or account (ISSUER:ACCOUNT); of one who has left, the id")
    .option("--limit <number>", "at most this many events", wholeNumber("--limit", 1, 200), 40)
    .option(
      "--before <event>",
      "only what was before this event of the journal",
      wholeNumber("--before", 1, Number.MAX_SAFE_INTEGER),
    )
    .action(async (named: string, { limit, before }: { limit: number; before?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const asked = { story: limit, ...(before !== undefined && { before }) };
      const told = await operator.playerHistory(await personNamed(operator, named), asked);
      screen.show(told, () => historyLines(told, screen));
      if (!screen.json && told.older !== undefined) {
        screen.note(`before that: yh player history ${named} --before ${told.older}`);
      }
    });
}

function historyLines({ player, story, refusals }: PlayerHistory, screen: Screen): string[] {
  const now = Date.now();
  const events = story.length === 0 ? ["The journal tells nothing of it any more."] : [];
  const denied = refusals.map(({ atMs, ask, code, detail, times }) => {
    const often = times === 1 ? "" : `, ${times} times in a row`;
    return `${pc.dim(when(atMs, now, screen.absolute))}  ${ask}: ${detail} ${pc.dim(`(${code}${often})`)}`;
  });
  return [
    ...events,
    ...story.map((event) => eventLine(event, screen)),
    "",
    ...(denied.length === 0 ? [`${player} was refused nothing lately.`] : [pc.bold("Refused lately"), ...denied]),
  ];
}
