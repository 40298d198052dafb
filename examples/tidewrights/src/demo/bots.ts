import { setTimeout as wait } from "node:timers/promises";
import { PlayerClient, ProblemError } from "@yellow-harbor/client";
import { goAboard } from "../game/play.ts";
import { GAME_BUILD } from "./voyage.ts";

export interface BotOptions {
  readonly url: string;
  readonly name: string;
  /** Runs played in one room before moving on. */
  readonly runsPerRoom: number;
  readonly signal: AbortSignal;
  readonly chance: () => number;
}

const LEVELS = ["brine-gate", "gull-flats"];
const LANTERNS = ["amber", "green", "red", "white"];

/** A bot that lives in the service until `signal` is aborted: gathers, plays, parts, and begins again. */
export async function liveAsBot(options: BotOptions): Promise<void> {
  const { url, name, signal } = options;
  while (!signal.aborted) {
    try {
      const player = await PlayerClient.connect({ url, name, build: GAME_BUILD });
      // A goodbye frees the place at once; without one it would be kept for the grace.
      const part = () => void player.leave().catch(() => player.drop());
      signal.addEventListener("abort", part, { once: true });
      await visit(player, options).finally(() => signal.removeEventListener("abort", part));
    } catch (error) {
      // Refusals and lost races are a bot's daily life; it comes again.
      if (!(error instanceof ProblemError) && !signal.aborted && !isOfTheGame(error)) throw error;
    }
    await pause(options, 2_000);
  }
}

const isOfTheGame = (error: unknown) => /game closed|ECONN|berth|pass/i.test(String((error as Error).message));

async function visit(player: PlayerClient, options: BotOptions): Promise<void> {
  await pause(options, 1_500);
  await gather(player, options);
  for (let run = 0; run < options.runsPerRoom && !options.signal.aborted; run++) {
    await getReady(player, options);
    const pass = await player.nextPass(60_000);
    const aboard = await goAboard(pass, options.chance);
    await aboard.play();
    aboard.disembark();
    await player.until(({ room }) => room?.phase === "gathering");
    await pause(options, 2_000);
  }
  await player.leaveRoom();
  await player.leave();
}

/** Seeks a room, hangs out a lantern on its board, and greets the others. */
async function gather(player: PlayerClient, { chance }: BotOptions): Promise<void> {
  const { room } = await player.seekRoom({ kind: "quick-crews" });
  const place = room.members[player.id]?.place ?? 0;
  await player.write(`lantern.${place}`, LANTERNS[Math.floor(chance() * LANTERNS.length)]);
  await player.relay({ text: "ahoy" });
}

async function getReady(player: PlayerClient, options: BotOptions): Promise<void> {
  await player.until(({ room }) => room !== undefined && Object.keys(room.members).length >= 2, 120_000);
  await pause(options, 2_500);
  const level = LEVELS[Math.floor(options.chance() * LEVELS.length)] ?? "brine-gate";
  // Whoever is host picks a level where there is none yet; that may become this bot while it waits.
  const pickWhereMissing = () => {
    const room = player.picture.room;
    if (room?.host === player.id && room.phase === "gathering" && room.level === undefined)
      void player.pickLevel(level).catch(() => undefined);
  };
  const off = player.on("change", pickWhereMissing);
  pickWhereMissing();
  try {
    await player.setReady(true);
    await player.until(({ room }) => room?.phase === "travelling" || room?.phase === "playing", 120_000);
  } finally {
    off();
  }
}

const pause = ({ chance, signal }: BotOptions, mostMs: number) =>
  wait(mostMs * (0.3 + 0.7 * chance()), undefined, { signal }).catch(() => undefined);
