import type { RoomListing } from "@yellow-harbor/protocol";
import { type Actions, quiet, wrong } from "./action.ts";
import { who } from "./who.ts";

/** Looking round in the lobby, and into a room. */
export const lobbyActions = {
  rooms: {
    usage: "rooms [open] [LEVEL]",
    about: "list the rooms of the lobby; only open ones, only of a level",
    run: async (player, words) => {
      const level = words.find((word) => word !== "open");
      const filter = { ...(words.includes("open") && { open: true }), ...(level !== undefined && { level }) };
      const found = await player.listRooms({ filter });
      return {
        result: found,
        text: found.rooms.length === 0 ? ["No rooms; say open to open one."] : listing(found.rooms),
      };
    },
  },
  follow: {
    usage: "follow",
    about: "follow the directory of the lobby; each change is told",
    run: async (player) => {
      await player.followRooms();
      const { rooms = [] } = player.directory ?? {};
      return { result: player.directory, text: rooms.length === 0 ? ["No rooms yet; you will hear."] : listing(rooms) };
    },
  },
  levels: {
    usage: "levels",
    about: "list the levels of the game",
    run: async (player) => {
      const found = await player.listLevels();
      return {
        result: found,
        text: found.levels.map(({ id, title, least, most }) => `${id}  ${title}, ${least} to ${most} players`),
      };
    },
  },
  open: {
    usage: "open [kind=KIND] [CAPACITY] [NAME]",
    about: "open a room and become its host; of the lobby's first kind when none is named",
    run: async (player, words) => {
      const kind = /^kind=(.+)$/.exec(words[0] ?? "")?.[1];
      const [first, ...rest] = kind === undefined ? words : words.slice(1);
      const hasCapacity = first !== undefined && /^\d+$/.test(first);
      const name = (hasCapacity ? rest : first === undefined ? [] : [first, ...rest]).join(" ");
      const opened = await player.openRoom({
        ...(kind !== undefined && { kind }),
        ...(hasCapacity && { capacity: Number(first) }),
        ...(name && { name }),
      });
      return {
        result: opened,
        text: [
          `Room ${opened.room.code} is open for ${opened.room.capacity}; you are the host. Give the code to others.`,
        ],
      };
    },
  },
  join: {
    usage: "join CODE [SIDE]",
    about: "join a room by its code, leaving the one you are in",
    run: async (player, [code, side]) => {
      if (code === undefined) throw wrong("join CODE [SIDE]");
      const joined = await player.joinRoom({ code, move: true, ...(side !== undefined && { side }) });
      return { result: joined, text: who({ room: joined.room, lobby: undefined }) };
    },
  },
  enter: {
    usage: "enter NAME",
    about: "join the room of that name, or open it",
    run: async (player, words) => {
      if (words.length === 0) throw wrong("enter NAME");
      const entered = await player.ask("room.enter", { name: words.join(" "), move: true });
      const how = entered.opened ? `Room ${entered.room.code} is yours.` : `You are in room ${entered.room.code}.`;
      return { result: entered, text: [how, ...who({ room: entered.room, lobby: undefined })] };
    },
  },
  seek: {
    usage: "seek",
    about: "join the best open room, else open one",
    run: async (player) => {
      const found = await player.seekRoom();
      const how = found.opened
        ? `No open room has a place; ${found.room.code} is yours.`
        : `You are in room ${found.room.code}.`;
      return { result: found, text: [how, ...who({ room: found.room, lobby: undefined })] };
    },
  },
  who: {
    usage: "who",
    about: "who is here with you",
    run: async (player) => ({ result: player.picture, text: who(player.picture) }),
  },
  say: {
    usage: "say TEXT",
    about: "say something to the other members, or to the lobby",
    run: async (player, words) => {
      if (words.length === 0) throw wrong("say TEXT");
      const text = words.join(" ");
      return quiet(player.picture.room ? player.relay({ text }) : player.say(text));
    },
  },
  leave: {
    usage: "leave",
    about: "leave the room",
    run: async (player) => {
      const left = await player.leaveRoom();
      return { result: left, text: [`You stand in ${left.lobby.id} again.`] };
    },
  },
  quit: {
    usage: "quit",
    about: "say goodbye and end",
    run: async (player) => {
      await player.leave();
      return { result: {}, text: ["Goodbye."], ends: true };
    },
  },
} satisfies Actions;

const listing = (rooms: readonly RoomListing[]): string[] =>
  rooms.map(
    ({ code, name, members, capacity, phase, level, isOpen }) =>
      `${code}  ${members}/${capacity}  ${isOpen ? phase : `${phase}, shut`}  ${level?.id ?? "-"}  ${name}`,
  );
