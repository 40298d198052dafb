import type { SessionView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

export function addSession(program: Command): void {
  const session = program.command("session").description("list and end the browsers that are logged in to the console");
  session
    .command("list")
    .description("list sessions of your own key; all of them for whoever administers")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.sessions(), ({ sessions }) => render(sessions, screen));
    });
  session
    .command("end")
    .description("end a session: its browser has to log in again")
    .argument("<session>", "id of the session; yh session list shows them")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.endSession(id), () => [`Session ${id} has ended.`]);
    });
}

function render(sessions: readonly SessionView[], { width, absolute }: Screen): string[] {
  if (sessions.length === 0) return ["No browser is logged in. yh console prints a link that logs one in."];
  const now = Date.now();
  return table(
    sessions,
    [
      { heading: "SESSION", value: (one) => pc.bold(one.id) },
      { heading: "NAME", value: (one) => one.name },
      { heading: "ROLE", value: (one) => one.role },
      { heading: "FROM", value: (one) => one.from },
      { heading: "SINCE", value: (one) => when(one.createdAtMs, now, absolute) },
      { heading: "LAST USED", value: (one) => when(one.lastUsedAtMs, now, absolute) },
      { heading: "ENDS", value: (one) => when(one.endsAtMs, now, absolute) },
      { heading: "BROWSER", value: (one) => one.agent },
    ],
    width,
  );
}
