import type { Command } from "commander";
import { contextOf } from "../context.ts";
import { when } from "../output/time.ts";

export function addConsole(program: Command): void {
  program
    .command("console")
    .description("print a link that logs one browser in to the console, once")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator, url } = contextOf(command);
      const { code, untilMs } = await operator.logInLink();
      // Behind the hash it is sent to no server and stands in no access log.
      const link = `${url.replace(/\/$/, "")}/#log-in=${code}`;
      screen.show({ link, untilMs }, () => [link]);
      if (!screen.json) screen.note(`good for one browser, until ${when(untilMs, Date.now(), true)}`);
    });
}
