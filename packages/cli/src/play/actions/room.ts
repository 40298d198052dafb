import { type Actions, jsonOf, memberAt, quiet, wrong } from "./action.ts";

const SET = "set name|capacity|visibility|password|KEY VALUE";

/** What the room is, who is where, who decides. */
export const roomActions = {
  set: {
    usage: SET,
    about: "change the room, or a setting of the game; null as VALUE removes a setting, none a password (host)",
    run: async (player, [key = "", ...words]) => {
      const value = words.join(" ");
      if (key === "" || value === "") throw wrong(SET);
      if (["name", "visibility"].includes(key)) return quiet(player.changeRoom({ [key]: value }));
      if (key === "password") return quiet(player.changeRoom({ password: value === "none" ? null : value }));
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
  here: {
    usage: "here",
    about: "say that you are still here, when you are asked",
    run: (player) => quiet(player.sayHere()),
  },
  "hand-over": {
    usage: "hand-over PLACE",
    about: "hand the powers over to the member at that place (host)",
    run: async (player, [place]) => ({
      result: await player.handOver(memberAt(player, place, "hand-over PLACE")),
      text: [],
    }),
  },
  kick: {
    usage: "kick PLACE [REASON]",
    about: "kick the member at that place from the room (host)",
    run: async (player, [place, ...words]) => {
      const reason = words.join(" ");
      const member = memberAt(player, place, "kick PLACE [REASON]");
      return { result: await player.kick(member, { ...(reason && { reason }) }), text: [] };
    },
  },
  side: {
    usage: "side NAME",
    about: "move to another side",
    run: (player, [side]) => {
      if (side === undefined) throw wrong("side NAME");
      return quiet(player.ask("room.move-to", { side }));
    },
  },
  place: {
    usage: "place NUMBER",
    about: "move to a free place",
    run: (player, [place]) => {
      if (place === undefined || !/^\d+$/.test(place)) throw wrong("place NUMBER");
      return quiet(player.ask("room.move-to", { place: Number(place) }));
    },
  },
  swap: {
    usage: "swap PLACE",
    about: "offer the member at that place to swap with you",
    run: async (player, [place]) => quiet(player.ask("room.swap", { with: memberAt(player, place, "swap PLACE") })),
  },
  balance: {
    usage: "balance",
    about: "balance the sides (host)",
    run: (player) => quiet(player.ask("room.balance", {})),
  },
  "board-set": {
    usage: "board-set KEY JSON",
    about: "set an entry of the room's board",
    run: async (player, [key, ...words]) => {
      if (key === undefined || words.length === 0) throw wrong("board-set KEY JSON");
      return { result: await player.board.set(key, jsonOf(words.join(" "))), text: [] };
    },
  },
  "board-remove": {
    usage: "board-remove KEY",
    about: "remove an entry of the room's board",
    run: async (player, [key]) => {
      if (key === undefined) throw wrong("board-remove KEY");
      return { result: await player.board.remove(key), text: [] };
    },
  },
} satisfies Actions;
