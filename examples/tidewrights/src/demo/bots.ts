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
  await gather(player);
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

/** Joins the fullest room that gathers and has a place, else opens one. */
async function gather(player: PlayerClient): Promise<void> {
  const { rooms } = await player.listRooms();
  const open = rooms.filter(({ phase, members, capacity }) => phase === "gathering" && members < capacity);
  open.sort((a, b) => b.members - a.members);
  for (const { id } of open) {
    try {
      await player.joinRoom({ room: id });
      return;
    } catch (error) {
      // Somebody else was quicker; the next room may do.
      if (!(error instanceof ProblemError)) throw error;
    }
  }
  await player.openRoom({ capacity: 3 });
}

async function getReady(player: PlayerClient, options: BotOptions): Promise<void> {
  await player.until(({ room }) => room !== undefined && Object.keys(room.members).length >= 2, 120_000);
  await pause(options, 2_500);
  const room = player.picture.room;
  if (room?.host === player.id && room.phase === "gathering") {
    await player.pickLevel(LEVELS[Math.floor(options.chance() * LEVELS.length)] ?? "brine-gate");
  }
  await player.setReady(true);
  // Whoever is host when nothing is missing any more starts; that may become this bot while it waits.
  const tryStart = () => {
    const now = player.picture.room;
    const isMine = now?.host === player.id && now.phase === "gathering";
    if (isMine && now.level === undefined) void player.pickLevel("brine-gate").catch(() => undefined);
    else if (isMine && now.missing.length === 0) void player.start().catch(() => undefined);
  };
  const off = player.on("change", tryStart);
  tryStart();
  await player.until(({ room: now }) => now?.phase === "travelling" || now?.phase === "playing", 120_000).finally(off);
}

const pause = ({ chance, signal }: BotOptions, mostMs: number) =>
  wait(mostMs * (0.3 + 0.7 * chance()), undefined, { signal }).catch(() => undefined);
