import type { DeadEvent, WebhookView } from "@yellow-harbor/protocol";
import { type Command, InvalidArgumentError } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

const WEBHOOK = ["<webhook>", "name of the webhook; yh webhook list shows them"] as const;
const NUMBERS = ["[number...]", "numbers of the events; all when left out"] as const;

/** Exit code of a test that did not arrive. */
const NOT_TAKEN = 6;

export function addWebhook(program: Command): void {
  const webhook = program
    .command("webhook")
    .description("show how telling others goes, and send again what they did not take");
  webhook
    .command("list")
    .description("list webhooks: what waits, what was put aside, and what came back last")
    .action(async (_options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.webhooks(), ({ webhooks }) => render(webhooks, screen));
    });
  webhook
    .command("dead")
    .description("list the events that were put aside for a webhook, the oldest first")
    .argument(...WEBHOOK)
    .option("-n, --limit <number>", "at most so many", wholeNumber("--limit", 1, 1_000), 50)
    .option("--after <number>", "only events with higher numbers", wholeNumber("--after", 0, Number.MAX_SAFE_INTEGER))
    .action(async (name: string, query: { limit: number; after?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.deadEvents(name, query), ({ events, next }) => [
        ...renderDead(events, screen),
        ...(next === undefined ? [] : [pc.dim(`more with --after ${next}`)]),
      ]);
    });
  webhook
    .command("resend")
    .description("send events again that were put aside")
    .argument(...WEBHOOK)
    .argument(...NUMBERS, collect)
    .action(async (name: string, numbers: number[], _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.resendEvents(name, someOf(numbers)), ({ events }) => [
        events === 0
          ? "None of these was put aside: nothing is sent again."
          : `${counted(events)} sent again to ${name}; what is not taken is put aside again.`,
      ]);
    });
  webhook
    .command("discard")
    .description("forget events that were put aside")
    .argument(...WEBHOOK)
    .argument(...NUMBERS, collect)
    .action(async (name: string, numbers: number[], _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.discardEvents(name, someOf(numbers)), ({ events }) => [
        `${counted(events)} forgotten.`,
      ]);
    });
  webhook
    .command("test")
    .description("send a test event now, once, and say what came back; the exit code says whether it was taken")
    .argument(...WEBHOOK)
    .action(async (name: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const tested = await operator.testWebhook(name);
      screen.show(tested, ({ ok, tookMs, text }) => [
        ok ? `${pc.green("taken")} in ${tookMs} ms: ${text}` : `${pc.red("not taken")} after ${tookMs} ms: ${text}`,
      ]);
      if (!tested.ok) io().exitCode = NOT_TAKEN;
    });
}

/** No numbers stand for all. */
const someOf = (numbers: readonly number[]) => (numbers.length === 0 ? undefined : [...numbers]);

const counted = (events: number) => (events === 1 ? "1 event is" : `${events} events are`);

function collect(text: string, before: number[] | undefined): number[] {
  const number = Number(text);
  if (!Number.isSafeInteger(number) || number < 1) throw new InvalidArgumentError("Expected the number of an event.");
  return [...(before ?? []), number];
}

function render(webhooks: readonly WebhookView[], { width, absolute }: Screen): string[] {
  if (webhooks.length === 0) return ["No webhooks. webhooks of the configuration adds one; see docs/webhooks.md."];
  const now = Date.now();
  const state = { idle: pc.dim, sending: pc.green, failing: pc.red };
  const lines = table(
    webhooks,
    [
      { heading: "WEBHOOK", value: (one) => pc.bold(one.name) },
      { heading: "STATE", value: (one) => state[one.state](one.state) },
      { heading: "SENT", value: (one) => String(one.sent) },
      { heading: "WAITING", value: (one) => String(one.waiting) },
      {
        heading: "OLDEST",
        value: (one) => (one.oldestAtMs === undefined ? "-" : when(one.oldestAtMs, now, absolute)),
      },
      { heading: "DEAD", value: (one) => (one.dead === 0 ? "0" : pc.red(String(one.dead))) },
      { heading: "EVENTS", value: (one) => one.events.join(" ") },
      { heading: "URL", value: (one) => one.url },
    ],
    width,
  );
  return [...lines, ...webhooks.flatMap((one) => lastOf(one, now, absolute))];
}

function lastOf({ name, state, lastFailure, nextAttemptAtMs, dead }: WebhookView, now: number, absolute: boolean) {
  const lines: string[] = [];
  if (state === "failing" && lastFailure) {
    const next = nextAttemptAtMs === undefined ? "" : `; next attempt ${when(nextAttemptAtMs, now, absolute)}`;
    lines.push(`${name}: ${lastFailure.text} (${when(lastFailure.atMs, now, absolute)})${next}`);
  }
  if (dead > 0)
    lines.push(pc.dim(`yh webhook dead ${name} lists what was put aside, yh webhook resend ${name} sends it again`));
  return lines;
}

function renderDead(events: readonly DeadEvent[], { width, absolute }: Screen): string[] {
  if (events.length === 0) return ["Nothing was put aside."];
  const now = Date.now();
  return table(
    events,
    [
      { heading: "NUMBER", value: (one) => pc.bold(String(one.number)) },
      { heading: "EVENT", value: (one) => one.type },
      { heading: "SUBJECT", value: (one) => one.subject },
      { heading: "HAPPENED", value: (one) => when(one.atMs, now, absolute) },
      { heading: "TRIED", value: (one) => `${one.attempts}x` },
      { heading: "PUT ASIDE", value: (one) => (one.again ? "being sent again" : when(one.givenUpAtMs, now, absolute)) },
      { heading: "WHY", value: (one) => one.why },
    ],
    width,
  );
}
