import type { BrowsedRoom, PlayerClient } from "@yellow-harbor/client";
import type { RoomListing } from "@yellow-harbor/protocol";
import { type Column, table } from "../../output/table.ts";
import type { Actions } from "./action.ts";

/** The rooms of the lobby. */
export const directoryActions = {
  rooms: {
    usage: "rooms [open] [LEVEL]",
    about: "list the rooms of the lobby: all, those that take players now, or those of one level",
    run: async (player, words) => {
      const level = words.find((word) => word !== "open");
      const filter = { ...(words.includes("open") && { open: true }), ...(level !== undefined && { level }) };
      const found = await player.listRooms({ filter });
      return {
        result: found,
        text: found.rooms.length === 0 ? ["No rooms. Type open to open one."] : listing(found.rooms),
      };
    },
  },
  browse: {
    usage: "browse [open]",
    about: "measure how far you are from the rooms of the lobby, and list them, the nearest first",
    run: async (player, words) => {
      await player.browser.begin(words.includes("open") ? { filter: { open: true } } : {});
      await untilMeasured(player);
      const { rooms } = player.browser;
      await player.browser.end();
      return { result: rooms, text: rooms.length === 0 ? ["No rooms. Type open to open one."] : listing(rooms, true) };
    },
  },
  follow: {
    usage: "follow",
    about: "follow the directory of the lobby and show each change",
    run: async (player) => {
      await player.followRooms();
      const { rooms = [] } = player.directory ?? {};
      return {
        result: player.directory,
        text: rooms.length === 0 ? ["No rooms yet. Each new one will be shown."] : listing(rooms),
      };
    },
  },
} satisfies Actions;

/** Nobody plays in a terminal that is narrower, and a pipe has no width. */
const WIDTH = 120;

const YOURS: Column<BrowsedRoom> = {
  heading: "TO YOU",
  value: ({ ownLatencyMs }) => (ownLatencyMs === undefined ? "-" : `${ownLatencyMs} ms`),
  align: "right",
};

const REGION: Column<BrowsedRoom> = { heading: "REGION", value: ({ region }) => region ?? "-" };

/** So long what does not answer is waited for. */
const MEASURING_MS = 3_000;

/** Resolves once all that can be measured is, or has had its time. */
function untilMeasured(player: PlayerClient): Promise<void> {
  return new Promise((resolve) => {
    const isDone = () =>
      player.browser.rooms.every(
        ({ echo, region, ownLatencyMs }) => (echo ?? region) === undefined || ownLatencyMs !== undefined,
      );
    const end = () => {
      clearTimeout(late);
      off();
      resolve();
    };
    const off = player.on("browsed", () => isDone() && end());
    const late = setTimeout(end, MEASURING_MS);
    if (isDone()) end();
  });
}

/** What to choose a room by: who hosts it, how far its members are, whether it takes somebody in. */
const listing = (rooms: readonly BrowsedRoom[], isMeasured = false): string[] =>
  table(
    rooms,
    [
      { heading: "CODE", value: ({ code }) => code },
      { heading: "PLAYERS", value: ({ members, capacity }) => `${members} of ${capacity}`, align: "right" },
      { heading: "PHASE", value: ({ phase }) => phase },
      { heading: "JOINING", value: joiningText },
      { heading: "LEVEL", value: ({ level }) => level?.id ?? "-" },
      {
        heading: "LATENCY",
        value: ({ latencyMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms`),
        align: "right",
      },
      ...(isMeasured ? [YOURS] : []),
      ...(rooms.some(({ region }) => region !== undefined) ? [REGION] : []),
      { heading: "HOST", value: ({ host }) => host },
      { heading: "NAME", value: ({ name }) => name },
    ],
    WIDTH,
  );

function joiningText({ isOpen, hasPassword, visibility }: RoomListing): string {
  if (!isOpen) return visibility === "locked" ? "locked" : "shut";
  return hasPassword ? "password" : "open";
}
