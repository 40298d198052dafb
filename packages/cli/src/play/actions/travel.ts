import { type Actions, quiet, wrong } from "./action.ts";

/** On the way to a level, and running one for the others. */
export const travelActions = {
  vote: {
    usage: "vote LEVEL",
    about: "say which level you are for, where levels are voted for",
    run: (player, [level]) => {
      if (level === undefined) throw wrong("vote LEVEL");
      return quiet(player.vote(level));
    },
  },
  loaded: {
    usage: "loaded PERCENT",
    about: "say how far you have loaded",
    run: (player, [percent]) => {
      const whole = Number(percent);
      const run = player.state.room?.run ?? "";
      if (percent === undefined || Number.isNaN(whole)) throw wrong("loaded PERCENT");
      return quiet(player.ask("travel.progress", { run, percent: whole }));
    },
  },
  arrive: {
    usage: "arrive",
    about: "say that you have arrived, where the service relays",
    run: (player) => quiet(player.travel.arrive()),
  },
  abort: {
    usage: "abort [REASON]",
    about: "abort the travel (host)",
    run: (player, words) => quiet(player.travel.abort(words.length === 0 ? undefined : words.join(" "))),
  },
  offer: {
    usage: "offer [ADDRESS:]PORT ...",
    about: "offer the world that you are asked to run, at these addresses",
    run: (player, words) => {
      if (words.length === 0) throw wrong("offer [ADDRESS:]PORT ...");
      return quiet(player.travel.offer(words.map(addressOf)));
    },
  },
  "cannot-host": {
    usage: "cannot-host REASON",
    about: "say that you cannot run the world",
    run: (player, words) => {
      if (words.length === 0) throw wrong("cannot-host REASON");
      return quiet(player.travel.decline(words.join(" ")));
    },
  },
  board: {
    usage: "board PASS",
    about: "verify the pass of a player who has connected to your world",
    run: async (player, [pass]) => {
      if (pass === undefined) throw wrong("board PASS");
      const boarded = await player.travel.board(pass);
      return { result: boarded, text: [`${boarded.player.name} may come in, at place ${boarded.player.place}.`] };
    },
  },
  trouble: {
    usage: "trouble REASON",
    about: "say that you cannot reach the destination",
    run: (player, words) => {
      if (words.length === 0) throw wrong("trouble REASON");
      return quiet(player.travel.trouble(words.join(" ")));
    },
  },
  renew: {
    usage: "renew",
    about: "ask for a new boarding pass",
    run: (player) => quiet(player.travel.renewPass()),
  },
  background: {
    usage: "background",
    about: "say that your game is in the background",
    run: (player) => quiet(player.setBackground(true)),
  },
  front: {
    usage: "front",
    about: "say that your game is in front again",
    run: (player) => quiet(player.setBackground(false)),
  },
} satisfies Actions;

function addressOf(word: string): { host?: string; port: number } {
  const [, host, port] = /^(?:(.+):)?(\d+)$/.exec(word) ?? [];
  if (port === undefined) throw wrong("offer [ADDRESS:]PORT ...");
  return { ...(host !== undefined && { host }), port: Number(port) };
}
