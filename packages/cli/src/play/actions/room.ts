import { type Actions, memberAt, quiet, wrong } from "./action.ts";

/** JSON as typed; what is none is taken as text, which is what most people mean. */
function jsonOf(typed: string): unknown {
  try {
    return JSON.parse(typed);
  } catch {
    return typed;
  }
}

/** What the room is, who stands where, who decides. */
export const roomActions = {
  set: {
    usage: "set name|capacity|visibility|KEY VALUE",
    about: "change the room, or a setting of the game's own; VALUE null takes it away (host)",
    run: async (player, [key = "", ...words]) => {
      const value = words.join(" ");
      if (key === "" || value === "") throw wrong("set name|capacity|visibility|KEY VALUE");
      if (["name", "visibility"].includes(key)) return quiet(player.changeRoom({ [key]: value }));
      if (key === "capacity") return quiet(player.changeRoom({ capacity: Number(value) }));
      return quiet(player.changeRoom({ settings: { [key]: jsonOf(value) as string } }));
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
  "hand-over": {
    usage: "hand-over PLACE",
    about: "hand the powers over to the member at that place (host)",
    run: async (player, [place]) => ({
      result: await player.handOver(memberAt(player, place, "hand-over PLACE")),
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
  side: {
    usage: "side NAME",
    about: "go over to another side",
    run: (player, [side]) => {
      if (side === undefined) throw wrong("side NAME");
      return quiet(player.ask("room.take", { side }));
    },
  },
  place: {
    usage: "place NUMBER",
    about: "take a free place",
    run: (player, [place]) => {
      if (place === undefined || !/^\d+$/.test(place)) throw wrong("place NUMBER");
      return quiet(player.ask("room.take", { place: Number(place) }));
    },
  },
  swap: {
    usage: "swap PLACE",
    about: "offer the member at that place to change with you",
    run: async (player, [place]) => quiet(player.ask("room.swap", { with: memberAt(player, place, "swap PLACE") })),
  },
  balance: {
    usage: "balance",
    about: "even the sides out (host)",
    run: (player) => quiet(player.ask("room.balance", {})),
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
} satisfies Actions;
