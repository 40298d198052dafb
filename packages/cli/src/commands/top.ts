import { emitKeypressEvents } from "node:readline";
import { type OperatorClient, ProblemError } from "@yellow-harbor/client";
import type { Command } from "commander";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import { lookDeeper } from "../top/deeper.ts";
import { frameOf, type Size } from "../top/frame.ts";
import { listOf } from "../top/lists.ts";
import { type Reading, readNow } from "../top/reading.ts";
import { FIRST_VIEW, type Key, press, rowsOf, type View } from "../top/view.ts";

/** Control sequences (ECMA-48, section 8.3): another screen, its cursor hidden; and back. */
const ENTER = "\u001b[?1049h\u001b[?25l";
const LEAVE = "\u001b[?25h\u001b[?1049l";
const HOME = "\u001b[H";
const CLEAR_LINE = "\u001b[K";
/** Of a terminal that does not say how large it is. */
const WIDTH = 80;
const HEIGHT = 24;

export function addTop(program: Command): void {
  program
    .command("top")
    .description("show rooms, queues and pools live, and what somebody should look at; in a pipe, once")
    .option("--every <seconds>", "seconds between two looks", wholeNumber("--every", 1, 3_600), 2)
    .action(async ({ every }: { every: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const reading = await readNow(operator);
      const { in: input, out } = io();
      if (screen.json) return screen.show(reading, () => []);
      if (!input.isTTY || !out.isTTY) {
        // As many lines as there are, and no keys: nobody scrolls in a pipe.
        const lines = frameOf(reading, FIRST_VIEW, { width: screen.width, height: reading.rooms.length + 20 });
        const last = lines.slice(0, -1).findLastIndex((line) => line !== "");
        return screen.show(reading, () => lines.slice(0, last + 1));
      }
      await live(operator, reading, every * 1_000);
    });
}

/** Shows the service until somebody has seen enough. */
async function live(operator: OperatorClient, first: Reading, everyMs: number): Promise<void> {
  const { stdin, stdout } = process;
  let reading = first;
  let view: View = FIRST_VIEW;
  let trouble: string | undefined;
  const size = (): Size => ({ width: stdout.columns || WIDTH, height: stdout.rows || HEIGHT });
  const show = () => {
    const lines = frameOf(reading, view, size(), trouble);
    stdout.write(HOME + lines.map((line) => line + CLEAR_LINE).join("\n"));
  };
  const look = async () => {
    try {
      reading = await readNow(operator);
      trouble = undefined;
    } catch (error) {
      trouble = `not of now: ${error instanceof ProblemError ? error.problem.detail : (error as Error).message}`;
    }
    show();
  };
  const deeper = async () => {
    const row = rowsOf(reading, view)[view.chosen];
    if (row === undefined) return;
    const id = listOf(view.list).id(row);
    try {
      view = { ...view, detail: { id, lines: await lookDeeper(operator, view.list, id) } };
    } catch (error) {
      view = { ...view, detail: { id, lines: [(error as Error).message] } };
    }
    show();
  };
  stdout.write(ENTER);
  emitKeypressEvents(stdin);
  stdin.setRawMode(true);
  const timer = setInterval(() => void look(), everyMs);
  stdout.on("resize", show);
  show();
  try {
    await new Promise<void>((resolve) => {
      process.once("SIGTERM", resolve);
      stdin.on("keypress", (_text: string, key: Key) => {
        const next = press(view, key, rowsOf(reading, view).length);
        view = next.view;
        if (next.wish === "quit") return resolve();
        if (next.wish === "look-deeper") return void deeper();
        show();
      });
    });
  } finally {
    clearInterval(timer);
    stdout.off("resize", show);
    stdin.setRawMode(false);
    stdin.pause();
    stdout.write(LEAVE);
  }
}
