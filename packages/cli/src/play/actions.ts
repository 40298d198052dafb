import { type Picture, type PlayerClient, ProblemError } from "@yellow-harbor/client";

/** What came of a line: JSON for scripts, sentences for people. */
export interface Done {
  readonly result: unknown;
  readonly text: readonly string[];
  readonly ends?: boolean;
}

interface Action {
  readonly usage: string;
  readonly about: string;
  readonly run: (player: PlayerClient, words: readonly string[]) => Promise<Done>;
}

/** JSON as typed; what is none is taken as text, which is what most people mean. */
function jsonOf(typed: string): unknown {
  try {
    return JSON.parse(typed);
  } catch {
    return typed;
  }
}

/** Members are named by their place, which is short and does not change. */
function memberAt(player: PlayerClient, place: string | undefined, usage: string): string {
  const member = Object.values(player.picture.room?.members ?? {}).find((one) => String(one.place) === place);
  if (member === undefined) throw wrong(`${usage}, with a place that who shows`);
  return member.id;
}

const wrong = (usage: string) => ProblemError.of("usage", `Say it as: ${usage}.`);

const WAIT_SECONDS = 60;

export const actions: Readonly<Record<string, Action>> = {
  rooms: {
    usage: "rooms",
    about: "list the open rooms of the lobby",
    run: async (player) => {
      const found = await player.listRooms();
      const lines = found.rooms.map(
        ({ code, name, members, capacity, phase, level }) =>
          `${code}  ${members}/${capacity}  ${phase}  ${level?.id ?? "-"}  ${name}`,
      );
      return { result: found, text: lines.length === 0 ? ["No rooms; say open to open one."] : lines };
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
    usage: "open [CAPACITY] [NAME]",
    about: "open a room and become its host",
    run: async (player, [first, ...rest]) => {
      const hasCapacity = first !== undefined && /^\d+$/.test(first);
      const name = (hasCapacity ? rest : first === undefined ? [] : [first, ...rest]).join(" ");
      const opened = await player.openRoom({ ...(hasCapacity && { capacity: Number(first) }), ...(name && { name }) });
      return {
        result: opened,
        text: [
          `Room ${opened.room.code} is open for ${opened.room.capacity}; you are the host. Give the code to others.`,
        ],
      };
    },
  },
  join: {
    usage: "join CODE",
    about: "join a room by its code",
    run: async (player, [code]) => {
      if (code === undefined) throw wrong("join CODE");
      const joined = await player.joinRoom({ code });
      return { result: joined, text: who({ room: joined.room, lobby: undefined }) };
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
  set: {
    usage: "set name|capacity|visibility VALUE",
    about: "change the room (host)",
    run: async (player, [key = "", ...words]) => {
      const value = words.join(" ");
      if (!["name", "capacity", "visibility"].includes(key) || value === "")
        throw wrong("set name|capacity|visibility VALUE");
      return { result: await player.changeRoom({ [key]: key === "capacity" ? Number(value) : value }), text: [] };
    },
  },
  say: {
    usage: "say TEXT",
    about: "say something to the other members",
    run: async (player, words) => {
      if (words.length === 0) throw wrong("say TEXT");
      return { result: await player.relay({ text: words.join(" ") }), text: [] };
    },
  },
  write: {
    usage: "write KEY JSON",
    about: "write an entry of the room's board",
    run: async (player, [key, ...words]) => {
      if (key === undefined || words.length === 0) throw wrong("write KEY JSON");
      return { result: await player.write(key, jsonOf(words.join(" "))), text: [] };
    },
  },
  erase: {
    usage: "erase KEY",
    about: "remove an entry of the room's board",
    run: async (player, [key]) => {
      if (key === undefined) throw wrong("erase KEY");
      return { result: await player.erase(key), text: [] };
    },
  },
  host: {
    usage: "host PLACE",
    about: "hand the powers over to the member at that place (host)",
    run: async (player, [place]) => ({
      result: await player.handOver(memberAt(player, place, "host PLACE")),
      text: [],
    }),
  },
  out: {
    usage: "out PLACE [REASON]",
    about: "put the member at that place out of the room (host)",
    run: async (player, [place, ...words]) => {
      const reason = words.join(" ");
      const member = memberAt(player, place, "out PLACE [REASON]");
      return { result: await player.putOut(member, { ...(reason && { reason }) }), text: [] };
    },
  },
  level: {
    usage: "level NAME",
    about: "pick the level (host)",
    run: async (player, [level]) => {
      if (level === undefined) throw wrong("level NAME");
      return { result: await player.pickLevel(level), text: [] };
    },
  },
  ready: {
    usage: "ready",
    about: "say that you are ready",
    run: async (player) => ({ result: await player.setReady(true), text: [] }),
  },
  unready: {
    usage: "unready",
    about: "say that you are not",
    run: async (player) => ({ result: await player.setReady(false), text: [] }),
  },
  start: {
    usage: "start",
    about: "start the travel (host)",
    run: async (player) => ({ result: await player.start(), text: [] }),
  },
  stop: {
    usage: "stop",
    about: "stop the countdown (host)",
    run: async (player) => ({ result: await player.stopCount(), text: [] }),
  },
  who: {
    usage: "who",
    about: "who is here with you",
    run: async (player) => ({ result: player.picture, text: who(player.picture) }),
  },
  pass: {
    usage: "pass",
    about: "wait for the address and your boarding pass",
    run: async (player) => {
      const pass = await player.nextPass(WAIT_SECONDS * 1000);
      const { address, level, instance } = pass;
      return {
        result: pass,
        text: [`${level} on ${instance} at ${address.host}:${address.port}`, `pass ${pass.pass}`],
      };
    },
  },
  wait: {
    usage: "wait gathering|travelling|playing|result|members N [SECONDS]",
    about: "wait until the room is so far",
    run: waitFor,
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
};

export const helpLines = (): string[] => {
  const widest = Math.max(...Object.values(actions).map(({ usage }) => usage.length));
  return Object.values(actions).map(({ usage, about }) => `${usage.padEnd(widest)}  ${about}`);
};

function who({ room, lobby }: Picture): string[] {
  if (room) {
    const members = Object.values(room.members).sort((a, b) => a.place - b.place);
    const lines = members.map(({ id, name, place, ready, presence }) => {
      const marks = [id === room.host && "host", ready && "ready", presence === "away" && "away"]
        .filter(Boolean)
        .join(", ");
      return `${place}  ${name}${marks ? `  ${marks}` : ""}`;
    });
    const missing = room.missing.length === 0 ? [] : [`Missing: ${room.missing.map((row) => row.text).join("; ")}.`];
    return [
      `Room ${room.code}, ${room.phase}, level ${room.level?.id ?? "not picked"}, ${members.length} of ${room.capacity}:`,
      ...lines,
      ...missing,
    ];
  }
  const others = Object.values(lobby?.players ?? {}).map((player) => player.name);
  return [`Lobby ${lobby?.id}: ${others.join(", ")}`];
}

async function waitFor(player: PlayerClient, words: readonly string[]): Promise<Done> {
  const [what, ...rest] = words;
  const holds = condition(player, what, rest[0]);
  if (holds === undefined) throw wrong("wait gathering|travelling|playing|result|members N [SECONDS]");
  const seconds = Number((what === "members" ? rest[1] : rest[0]) ?? WAIT_SECONDS);
  const picture = await player.until(holds, seconds * 1000);
  return { result: picture, text: [] };
}

function condition(
  player: PlayerClient,
  what: string | undefined,
  count: string | undefined,
): ((picture: Picture) => boolean) | undefined {
  // A result that is there already was seen already: wait for the next one.
  const seen = player.picture.room?.phase === "gathering" ? player.picture.room.result?.run : undefined;
  switch (what) {
    case "gathering":
    case "travelling":
    case "playing":
      return ({ room }) => room?.phase === what;
    case "result":
      return ({ room }) => room?.result !== undefined && room.result.run !== seen && room.phase === "gathering";
    case "members":
      return ({ room }) => room !== undefined && Object.keys(room.members).length >= Number(count);
    default:
      return undefined;
  }
}
