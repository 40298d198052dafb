import type { PlayerReply, RoomKindView } from "@yellow-harbor/protocol";
import { type Actions, quiet, wrong } from "./action.ts";
import { who } from "./who.ts";

/** In the lobby, and into a room. */
export const lobbyActions = {
  kinds: {
    usage: "kinds",
    about: "list the kinds of rooms of the lobby, with what their settings may be",
    run: async (player) => {
      const found = await player.listRoomKinds();
      return { result: found, text: found.kinds.flatMap(kindLines) };
    },
  },
  lobbies: {
    usage: "lobbies",
    about: "list the lobbies of the harbor",
    run: async (player) => {
      const { lobbies } = await player.lobbies.list();
      const lines = lobbies.map(
        ({ id, title, players, inRooms, rooms }) =>
          `${id}  ${title}; ${players} in the lobby, ${inRooms} in ${rooms} ${rooms === 1 ? "room" : "rooms"}`,
      );
      return { result: lobbies, text: lines };
    },
  },
  lobby: {
    usage: "lobby NAME",
    about: "go to another lobby, as the same player",
    run: async (player, [name]) => {
      if (name === undefined) throw wrong("lobby NAME");
      const { lobby } = await player.lobbies.switchTo(name);
      return { result: lobby, text: who({ room: undefined, lobby }) };
    },
  },
  attributes: {
    usage: "attributes [KEY VALUE|none]",
    about: "list what you bring into rooms and what it may be, or say one of it",
    run: async (player, [key, ...words]) => {
      if (key === undefined) {
        const own = await player.attributes.list();
        return { result: own, text: attributeLines(own) };
      }
      if (words.length === 0) throw wrong("attributes KEY VALUE|none");
      const { attributes } = await player.attributes.set({ [key]: settingOf(words.join(" ")) });
      const said = Object.entries(attributes).map(([name, value]) => `${name} ${value}`);
      return {
        result: attributes,
        text: [said.length === 0 ? "You bring nothing in particular." : `You bring ${said.join(", ")}.`],
      };
    },
  },
  levels: {
    usage: "levels",
    about: "list the levels of the game",
    run: async (player) => {
      const found = await player.listLevels();
      return {
        result: found,
        text: found.levels.map(({ id, title, min, max }) => `${id}  ${title}, ${min} to ${max} players`),
      };
    },
  },
  open: {
    usage: "open [kind=KIND] [region=REGION] [password=PASSWORD] [CAPACITY] [NAME]",
    about: "open a room and become its host; of the lobby's first kind when none is named",
    run: async (player, typed) => {
      const { named, rest: words } = namedIn(typed, ["kind", "region", "password"]);
      const [first, ...rest] = words;
      const hasCapacity = first !== undefined && /^\d+$/.test(first);
      const name = (hasCapacity ? rest : first === undefined ? [] : [first, ...rest]).join(" ");
      const opened = await player.openRoom({
        ...named,
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
    usage: "join CODE [SIDE] [password=PASSWORD]",
    about: "join a room by its code, leaving the one you are in",
    run: async (player, [code, ...more]) => {
      if (code === undefined) throw wrong("join CODE [SIDE] [password=PASSWORD]");
      const { named, rest } = namedIn(more, ["password"]);
      const [side] = rest;
      const joined = await player.joinRoom({ code, move: true, ...named, ...(side !== undefined && { side }) });
      return { result: joined, text: who({ room: joined.room, lobby: undefined }) };
    },
  },
  watch: {
    usage: "watch CODE",
    about: "look on in a room, leaving the one you are in; join with the same code takes a place in it",
    run: async (player, [code]) => {
      if (code === undefined) throw wrong("watch CODE");
      const { room } = await player.watchRoom({ code, move: true });
      const { delayMs = 0 } = room.spectators ?? {};
      const behind = delayMs === 0 ? [] : [`You see its runs ${delayMs / 1_000} s later.`];
      return {
        result: room,
        text: [`You look on in room ${room.code}.`, ...behind, ...who({ room, lobby: undefined })],
      };
    },
  },
  "join-or-open": {
    usage: "join-or-open NAME",
    about: "join the room of that name, or open it",
    run: async (player, words) => {
      if (words.length === 0) throw wrong("join-or-open NAME");
      const joined = await player.joinOrOpen({ name: words.join(" "), move: true });
      const how = joined.opened ? `You opened room ${joined.room.code}.` : `You are in room ${joined.room.code}.`;
      return { result: joined, text: [how, ...who({ room: joined.room, lobby: undefined })] };
    },
  },
  "quick-join": {
    usage: "quick-join",
    about: "join the best open room, or open one when there is none",
    run: async (player) => {
      const found = await player.quickJoin();
      const how = found.opened
        ? `No open room has a free place; you opened room ${found.room.code}.`
        : `You are in room ${found.room.code}.`;
      return { result: found, text: [how, ...who({ room: found.room, lobby: undefined })] };
    },
  },
  who: {
    usage: "who",
    about: "list who is here with you",
    run: async (player) => ({ result: player.state, text: who(player.state) }),
  },
  chat: {
    usage: "chat TEXT",
    about: "send a message to the other members of the room, or to the lobby",
    run: async (player, words) => {
      if (words.length === 0) throw wrong("chat TEXT");
      const text = words.join(" ");
      return quiet(player.state.room ? player.relay({ text }) : player.chat(text));
    },
  },
  leave: {
    usage: "leave",
    about: "leave the room",
    run: async (player) => {
      const left = await player.leaveRoom();
      return { result: left, text: [`You are in ${left.lobby.id} again.`] };
    },
  },
  quit: {
    usage: "quit",
    about: "leave the service and end",
    run: async (player) => {
      await player.leave();
      return { result: {}, text: ["Goodbye."], ends: true };
    },
  },
} satisfies Actions;

/** What is said as NAME=VALUE among the words, and the others. A password with blanks in it is said in the game. */
function namedIn<N extends string>(words: readonly string[], names: readonly N[]) {
  const named = Object.fromEntries(
    names.flatMap((name) => {
      const said = words.find((word) => word.startsWith(`${name}=`));
      return said === undefined ? [] : [[name, said.slice(name.length + 1)]];
    }),
  ) as { [K in N]?: string };
  return { named, rest: words.filter((word) => !names.some((name) => word.startsWith(`${name}=`))) };
}

function kindLines({ id, capacity, levels, settings = {}, variants = {} }: RoomKindView): string[] {
  const named = Object.keys(variants);
  return [
    `${id}  ${capacity.min} to ${capacity.max} players; ${levels.join(", ")}`,
    ...Object.entries(settings).map(([key, schema]) => `  ${key}  ${settingText(schema)}`),
    ...(named.length > 0 ? [`  variants: ${named.join(", ")}`] : []),
  ];
}

function settingText(schema: NonNullable<RoomKindView["settings"]>[string]): string {
  const first = schema.default === undefined ? "" : `, ${schema.default} at first`;
  const whose = schema.readOnly ? ", for operators to set" : "";
  return `${rangeText(schema)}${first}${whose}`;
}

function rangeText(schema: NonNullable<RoomKindView["settings"]>[string]): string {
  switch (schema.type) {
    case "boolean":
      return "true or false";
    case "string":
      return schema.enum ? schema.enum.join(" or ") : "a text";
    case "integer":
    case "number":
      return `a ${schema.type === "integer" ? "whole " : ""}number from ${schema.minimum ?? "any"} to ${schema.maximum ?? "any"}`;
  }
}

/** As it was typed: numbers, true and false as such, none for the default. */
function settingOf(typed: string): string | number | boolean | null {
  if (typed === "none") return null;
  if (typed === "true" || typed === "false") return typed === "true";
  return Number.isFinite(Number(typed)) ? Number(typed) : typed;
}

function attributeLines({ attributes, declared }: PlayerReply<"player.attributes">): string[] {
  const names = Object.keys(declared);
  if (names.length === 0) return ["The game declares no attributes of players."];
  return names.map((name) => {
    const schema = declared[name];
    const kinds = schema?.type === "string" && schema.enum ? schema.enum.join(", ") : schema?.type;
    return `${name}  ${attributes[name] ?? "-"}  (${kinds}${schema?.readOnly ? "; by the game's own back end" : ""})`;
  });
}
