import { PlayerClient, ProblemError, platformSocket, type SocketLike } from "@yellow-harbor/client";
import { behaviours } from "./behaviours.ts";
import { type Bot, type BotOptions, pause } from "./bot.ts";
import { count } from "./tally.ts";

const PAUSE_MS = 1_500;

/** Lives until `signal` is aborted: connects, behaves, parts, and begins again. */
export async function liveAsBot(options: BotOptions): Promise<void> {
  const { signal, tally } = options;
  while (!signal.aborted) {
    try {
      const bot = await connect(options);
      await visit(bot);
    } catch (error) {
      if (signal.aborted) return;
      if (error instanceof ProblemError) count(tally.refused, error.code);
      else count(tally.faults, (error as Error).message);
    }
    await pause(options, PAUSE_MS);
  }
}

async function connect(options: BotOptions): Promise<Bot> {
  const { url, name, build, lobby, tally } = options;
  let socket: SocketLike | undefined;
  const player = await PlayerClient.connect({
    url,
    name,
    build,
    reconnect: { firstMs: 100 },
    ...(lobby !== undefined && { lobby }),
    socket: async (address, subprotocol) => {
      socket = await platformSocket(address, subprotocol);
      return socket;
    },
  });
  tally.hellos += 1;
  tally.connected += 1;
  player.on("resumed", () => {
    tally.resumed += 1;
  });
  player.on("relayed", () => {
    tally.heard += 1;
  });
  player.on("ended", () => {
    tally.connected -= 1;
  });
  const cut = () => {
    tally.cut += 1;
    socket?.close(4_000, "cut on purpose");
  };
  return { ...options, player, cut };
}

async function visit(bot: Bot): Promise<void> {
  const { player, signal, tally } = bot;
  // A goodbye frees the place at once; without one it would be kept for the grace.
  let isParted = false;
  const part = async () => {
    if (isParted) return;
    isParted = true;
    await player.leave().then(
      () => {
        tally.goodbyes += 1;
      },
      () => player.drop(),
    );
  };
  const hurry = () => void part();
  signal.addEventListener("abort", hurry, { once: true });
  try {
    await behaviours[bot.behaviour](bot);
  } finally {
    signal.removeEventListener("abort", hurry);
    if (bot.behaviour === "rude") player.drop();
    else await part();
  }
}
