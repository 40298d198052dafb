import { ProblemError } from "@yellow-harbor/client";
import { type Behaviour, type Bot, pause } from "./bot.ts";
import { searchInQueue } from "./search.ts";
import { stayInRoom } from "./stay.ts";
import { count } from "./tally.ts";

const STAY_MS = 20_000;
const SLOW_MS = 6_000;
const CUT_EVERY_MS = 6_000;
const RUDE_AFTER_MS = 8_000;

/** One visit each: from the lobby into a room and out again. */
export const behaviours: Readonly<Record<Behaviour, (bot: Bot) => Promise<void>>> = {
  /** Looks round, goes into some room, joins in, and leaves. */
  wander: async (bot) => {
    await goIn(bot);
    await stayInRoom(bot, { stayMs: STAY_MS, boardAfterMs: 0 });
    await bot.player.leaveRoom();
  },
  /** Opens a room of its own and brings it through a run. */
  host: async (bot) => {
    await bot.player.openRoom({ name: `${bot.name} hosts` });
    bot.tally.roomsOpened += 1;
    await stayInRoom(bot, { stayMs: 3 * STAY_MS, boardAfterMs: 0 });
    await bot.player.leaveRoom();
  },
  /** Searches in a queue of its lobby, and plays what comes of it. Without a queue it wanders. */
  search: async (bot) => {
    if (!(await searchInQueue(bot))) return behaviours.wander(bot);
    await stayInRoom(bot, { stayMs: STAY_MS, boardAfterMs: 0 });
    await bot.player.leaveRoom();
  },
  /** Wanders on a network that is cut now and then. */
  flaky: async (bot) => {
    const cutting = setInterval(() => bot.cut(), CUT_EVERY_MS * (0.5 + bot.chance()));
    try {
      await behaviours.wander(bot);
    } finally {
      clearInterval(cutting);
    }
  },
  /** Wanders, and takes its time to load. */
  slow: async (bot) => {
    await goIn(bot);
    await stayInRoom(bot, { stayMs: 2 * STAY_MS, boardAfterMs: SLOW_MS * (0.5 + bot.chance() / 2) });
    await bot.player.leaveRoom();
  },
  /** Goes in, and is gone without a goodbye. */
  rude: async (bot) => {
    await goIn(bot);
    await pause(bot, RUDE_AFTER_MS);
    bot.tally.rudeQuits += 1;
  },
};

/** Into a room of the directory, or into whatever quick-join finds. */
async function goIn(bot: Bot): Promise<void> {
  const { player, tally, chance } = bot;
  await pause(bot, 1_000);
  const { rooms } = await player.listRooms({ filter: { open: true } });
  const room = rooms[Math.floor(chance() * rooms.length)];
  if (room !== undefined && chance() < 0.5) {
    try {
      await player.joinRoom({ room: room.id });
      tally.roomsJoined += 1;
      return;
    } catch (error) {
      // Somebody was faster; there are other rooms.
      if (!(error instanceof ProblemError)) throw error;
      count(tally.refused, error.code);
    }
  }
  const { opened } = await player.quickJoin();
  if (opened) tally.roomsOpened += 1;
  else tally.roomsJoined += 1;
}
