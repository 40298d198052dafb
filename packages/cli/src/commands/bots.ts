import { setMaxListeners } from "node:events";
import { resolve } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { ProblemError } from "@yellow-harbor/client";
import { type ProblemCode, problemTable } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import { loadAboard } from "../bots/aboard.ts";
import { BEHAVIOURS, type Behaviour } from "../bots/bot.ts";
import { randomFrom } from "../bots/chance.ts";
import { liveAsBot } from "../bots/live.ts";
import { newTally, type Tally, tallyLines } from "../bots/tally.ts";
import { contextOf, wholeNumber } from "../context.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";

interface BotsOptions {
  readonly count: number;
  readonly seconds?: number;
  readonly as: readonly Behaviour[];
  readonly lobby?: string;
  readonly build?: string;
  readonly aboard?: string;
  readonly seed: number;
}

const REPORT_EVERY_MS = 5_000;
/** How long the bots may take to say goodbye. */
const GOODBYE_MS = 1_500;
/** Newcomers come one after the other, as people do. */
const ARRIVE_EVERY_MS = 20;

export function addBots(program: Command): void {
  program
    .command("bots")
    .description("run simulated players, and report what they did")
    .option("--count <number>", "number of players", wholeNumber("--count", 1, 2_000), 8)
    .option(
      "--seconds <number>",
      "how long in seconds; until Ctrl-C when left out",
      wholeNumber("--seconds", 1, 86_400),
    )
    .option("--as <behaviours>", `out of ${BEHAVIOURS.join(", ")}; taken in turns`, behavioursOf, [...BEHAVIOURS])
    .option("--lobby <name>", "lobby to be in")
    .option("--build <build>", "build of the game client; the first that the service accepts when left out")
    .option("--aboard <module>", "module that boards an instance of the game; without it the bots never start")
    .option("--seed <number>", "seed of their choices", wholeNumber("--seed", 0, 4_294_967_295), 1)
    .addHelpText(
      "after",
      `
Behaviours:
  wander  goes into some room, joins in, leaves
  host    opens a room and brings it through a run
  search  searches in a queue of its lobby, and plays the match
  flaky   wanders, and its connection is cut now and then
  slow    wanders, and takes its time to load
  rude    goes in, and is gone without a goodbye

The module exports goAboard(pass), resolving with { play(), disembark() }.`,
    )
    .action(async (options: BotsOptions, command: Command) => {
      const { screen, url, operator } = contextOf(command);
      const build = options.build ?? (await operator.about()).accepts[0] ?? "";
      const goAboard = options.aboard === undefined ? undefined : await loadAboard(resolve(options.aboard));
      const tally = await run(options, screen, ({ n, signal, tally }) =>
        liveAsBot({
          url,
          build,
          goAboard,
          tally,
          signal,
          lobby: options.lobby,
          name: `Bot ${n + 1}`,
          behaviour: options.as[n % options.as.length] ?? "wander",
          chance: randomFrom(options.seed * 65_537 + n),
        }),
      );
      screen.show(tally, tallyLines);
      if (Object.keys(tally.faults).length > 0) io().exitCode = 1;
      else if (tally.hellos === 0) io().exitCode = exitOfNobody(tally);
    });
}

/** Where no bot ever got in, what kept most of them out is how the command ends. */
function exitOfNobody({ refused }: Tally): number {
  const [code = "service-unreachable"] = Object.entries(refused).sort(([, a], [, b]) => b - a)[0] ?? [];
  return Object.hasOwn(problemTable, code) ? problemTable[code as ProblemCode].exit : 1;
}

interface Life {
  readonly n: number;
  readonly signal: AbortSignal;
  readonly tally: Tally;
}

async function run(
  { count, seconds }: BotsOptions,
  screen: Screen,
  live: (life: Life) => Promise<void>,
): Promise<Tally> {
  const end = new AbortController();
  // Every bot listens for the end.
  setMaxListeners(0, end.signal);
  const tally = newTally();
  for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => end.abort());
  const timer = seconds === undefined ? undefined : setTimeout(() => end.abort(), seconds * 1_000);
  const report = setInterval(() => {
    const { connected, roomsOpened, roomsJoined, results, resumed, rudeQuits } = tally;
    screen.note(
      `${connected} connected, ${roomsOpened} rooms opened, ${roomsJoined} joined, ${results} results, ${resumed} resumed, ${rudeQuits} rude`,
    );
  }, REPORT_EVERY_MS);
  const lives: Promise<void>[] = [];
  for (let n = 0; n < count && !end.signal.aborted; n++) {
    lives.push(live({ n, signal: end.signal, tally }));
    await wait(ARRIVE_EVERY_MS);
  }
  await new Promise<void>((ended) =>
    end.signal.aborted ? ended() : end.signal.addEventListener("abort", () => ended()),
  );
  clearTimeout(timer);
  clearInterval(report);
  await Promise.race([Promise.allSettled(lives), wait(GOODBYE_MS)]);
  return tally;
}

function behavioursOf(typed: string): Behaviour[] {
  return typed.split(",").map((word) => {
    const behaviour = BEHAVIOURS.find((one) => one === word.trim());
    if (behaviour) return behaviour;
    throw ProblemError.of("usage", `--as ${typed}: there is no behaviour ${word}; there are ${BEHAVIOURS.join(", ")}.`);
  });
}
