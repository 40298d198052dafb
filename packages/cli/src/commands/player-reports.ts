import type { ReportList, ReportView } from "@yellow-harbor/protocol";
import pc from "picocolors";
import type { Screen } from "../output/screen.ts";
import { when } from "../output/time.ts";

/** Reports in lines: who tells what of whom, and what that one had said. */
export function reportLines({ reports, lookedBackMs }: ReportList, { absolute }: Pick<Screen, "absolute">): string[] {
  const now = Date.now();
  const older =
    lookedBackMs === undefined
      ? []
      : [pc.dim(`The journal was looked through back to ${when(lookedBackMs, now, absolute)}.`)];
  if (reports.length === 0) return ["No reports.", ...older];
  return [...reports.flatMap((one) => linesOf(one, now, absolute)), ...older];
}

function linesOf({ atMs, player, by, reason, text, room, said }: ReportView, now: number, absolute: boolean): string[] {
  const where = room === undefined ? "" : `, in room ${room}`;
  const whom = player.account === undefined ? player.id : `${player.id}, ${player.account}`;
  return [
    `${when(atMs, now, absolute)}  ${pc.bold(player.name)} (${whom}) for ${reason}, by ${by.name} (${by.id})${where}`,
    ...(text === undefined ? [] : [`  ${text}`]),
    ...said.map((one) => `  said ${one.to === "lobby" ? "in the lobby" : "to the one who reports"}: ${one.text}`),
  ];
}
