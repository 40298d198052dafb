import { ProblemError } from "@yellow-harbor/client";
import type { RatingList, RatingView } from "@yellow-harbor/protocol";
import { type Command, InvalidArgumentError } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { allOf } from "../journal/pages.ts";
import { counted } from "../output/counted.ts";
import type { Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";

interface ReplayOptions {
  readonly config: string;
  readonly apply?: boolean;
}

const CHANGES_SHOWN = 20;

export function addRating(program: Command): void {
  const rating = program.command("rating").description("list and set ratings, begin seasons, work ratings out anew");
  rating
    .command("list")
    .description("list the ratings of a queue, the highest first, or that of one account")
    .argument("<queue>", "name")
    .option("--account <account>", "such as game:4711")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 100)
    .action(async (queue: string, options: { account?: string; limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.ratings(queue, options), (list) => render(list, screen));
    });
  rating
    .command("set")
    .description("set the rating of an account, such as one that comes from elsewhere")
    .argument("<queue>", "name")
    .argument("<account>", "such as game:4711")
    .argument("<rating>", "number", numberOf)
    .option("--deviation <number>", "how uncertain it is; as it was when left out", numberOf)
    .action(async (queue: string, account: string, value: number, how: { deviation?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.setRating(queue, { account, rating: value, ...how }), (list) => render(list, screen));
    });
  rating
    .command("season")
    .description("begin a season: every rating moves towards the start, and is less certain")
    .argument("<queue>", "name")
    .option("--keep <share>", "share of its distance to the start that a rating keeps, from 0 to 1", numberOf, 0.5)
    .option("--min-deviation <number>", "how uncertain every rating is at least", numberOf)
    .action(async (queue: string, how: { keep: number; minDeviation?: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const list = await operator.beginSeason(queue, how);
      screen.show(list, () => [`A season has begun in ${queue}.`, ...render(list, screen)]);
    });
  rating
    .command("replay")
    .description(
      "work the ratings of a queue out anew from the results in the journal, by the rules of a configuration",
    )
    .argument("<queue>", "name")
    .requiredOption("--config <file>", "configuration file with the queue")
    .option("--apply", "set the ratings of the service to what comes out")
    .action(async (queue: string, options: ReplayOptions, command: Command) => replay(queue, options, command));
}

function numberOf(typed: string): number {
  const value = Number(typed);
  if (typed.trim() !== "" && Number.isFinite(value)) return value;
  throw new InvalidArgumentError(`${typed} is not a number.`);
}

async function replay(queue: string, { config, apply = false }: ReplayOptions, command: Command): Promise<void> {
  const { screen, operator } = contextOf(command);
  const { rerate } = await import("@yellow-harbor/lab");
  const rules = await rulesIn(config, queue);
  const { ratings, matches, loss, recordedLoss } = rerate(await allOf(operator, "rating"), queue, rules);
  if (matches === 0) {
    throw ProblemError.of(
      "traffic-invalid",
      `The journal has no result that counts in ${queue}; yh rating list shows its ratings.`,
    );
  }
  const now = new Map((await operator.ratings(queue, { limit: 500 })).ratings.map((one) => [one.account, one.rating]));
  const changes = [...ratings]
    .map(([account, { rating, deviation }]) => ({ account, rating, deviation, now: now.get(account) ?? null }))
    .sort((a, b) => b.rating - a.rating);
  if (apply) {
    for (const { account, rating, deviation } of changes)
      await operator.setRating(queue, { account, rating, deviation });
  }
  screen.show({ queue, matches, loss, recordedLoss, applied: apply, ratings: changes }, () => [
    `${counted(matches, "result")} of ${queue} worked out anew for ${counted(ratings.size, "account")}.`,
    `Log loss of what the ratings foretold: ${loss ?? "none"}; as recorded ${recordedLoss ?? "none"}; 0.6931 is a coin. Lower is better.`,
    "",
    ...table(
      changes.slice(0, CHANGES_SHOWN),
      [
        { heading: "ACCOUNT", value: ({ account }) => pc.bold(account) },
        { heading: "NOW", value: (one) => (one.now === null ? "-" : one.now.toFixed(0)), align: "right" },
        { heading: "ANEW", value: (one) => one.rating.toFixed(0), align: "right" },
        { heading: "DEVIATION", value: (one) => one.deviation.toFixed(0), align: "right" },
      ],
      screen.width,
    ),
    pc.dim(apply ? "The service has these ratings now." : "Nothing was changed; --apply sets them."),
  ]);
}

async function rulesIn(config: string, queue: string) {
  const { loadConfig, queueRulesOf } = await import("@yellow-harbor/service");
  const { configProblem } = await import("../config/read-config.ts");
  const loaded = loadConfig(config);
  if (!loaded.ok) throw configProblem(loaded.file, loaded.faults);
  const known = loaded.config.queues[queue];
  const rating = known && queueRulesOf(known).rating;
  if (rating) return rating;
  throw ProblemError.of("queue-unknown", `${loaded.file} has no queue ${queue} that rates; give it \`rating\`.`);
}

function render({ ratings, total, attribute }: RatingList, { width, absolute }: Screen): string[] {
  if (ratings.length === 0) return ["Nobody is rated so: ratings come with the results of the queue's matches."];
  const now = Date.now();
  const lines = table(
    ratings,
    [
      { heading: "RANK", value: (one: RatingView) => String(one.rank), align: "right" },
      { heading: "ACCOUNT", value: (one) => pc.bold(one.account) },
      { heading: attribute.toUpperCase(), value: (one) => one.rating.toFixed(0), align: "right" },
      { heading: "DEVIATION", value: (one) => one.deviation.toFixed(0), align: "right" },
      { heading: "MATCHES", value: (one) => String(one.matches), align: "right" },
      { heading: "LAST", value: (one) => (one.matches === 0 ? "-" : when(one.atMs, now, absolute)) },
    ],
    width,
  );
  return [...lines, pc.dim(`${ratings.length} of ${counted(total, "account")}`)];
}
