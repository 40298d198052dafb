import type { PlayerClient, PlayerState } from "@yellow-harbor/client";
import { addressText } from "@yellow-harbor/protocol";
import { type Actions, type Done, memberAt, quiet, WAIT_SECONDS, wrong } from "./action.ts";

const WAIT = "wait gathering|travelling|boarding|playing|result|members N [SECONDS]";

/** Getting ready, the run itself, turns and results. */
export const runActions = {
  ready: {
    usage: "ready",
    about: "say that you are ready",
    run: async (player) => ({ result: await player.setReady(true), text: [] }),
  },
  unready: {
    usage: "unready",
    about: "say that you are not ready",
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
  pass: {
    usage: "pass",
    about: "wait for the address and your boarding pass",
    run: async (player) => {
      const pass = await player.nextPass(WAIT_SECONDS * 1000);
      const { address, level, instance, player: host } = pass;
      const where = instance
        ? `on ${instance}`
        : `in the world of ${player.state.room?.members[host ?? ""]?.name ?? host}`;
      return {
        result: pass,
        text: [`${level} ${where} at ${addressText(address)}`, `pass ${pass.pass}`],
      };
    },
  },
  turn: {
    usage: "turn [PLACE]",
    about: "pass the turn to the next member, or to the member at that place; the host starts the turns",
    run: async (player, [place]) =>
      quiet(player.ask("room.pass-turn", place === undefined ? {} : { to: memberAt(player, place, "turn [PLACE]") })),
  },
  "no-turns": {
    usage: "no-turns",
    about: "end the turns (host)",
    run: (player) => quiet(player.ask("room.end-turns", {})),
  },
  score: {
    usage: "score PLACE=SCORE ...",
    about: "set the result, where the host decides it",
    run: async (player, words) => {
      const standings = words.map((word) => {
        const [place, score] = word.split("=");
        if (score === undefined || Number.isNaN(Number(score))) throw wrong("score PLACE=SCORE ...");
        return { player: memberAt(player, place, "score PLACE=SCORE ..."), score: Number(score) };
      });
      return quiet(player.ask("room.set-result", { standings }));
    },
  },
  again: {
    usage: "again [LEVEL]",
    about: "while the result is shown: start again, with the same level or another (host)",
    run: (player, [level]) => quiet(player.ask("room.again", level === undefined ? {} : { level })),
  },
  gather: {
    usage: "gather",
    about: "while the result is shown: gather again (host)",
    run: (player) => quiet(player.ask("room.gather", {})),
  },
  wait: {
    usage: WAIT,
    about: "wait until the room is in this phase",
    run: waitFor,
  },
} satisfies Actions;

async function waitFor(player: PlayerClient, words: readonly string[]): Promise<Done> {
  const [what, ...rest] = words;
  const holds = condition(player, what, rest[0]);
  if (holds === undefined) throw wrong(WAIT);
  const seconds = Number((what === "members" ? rest[1] : rest[0]) ?? WAIT_SECONDS);
  const state = await player.until(holds, seconds * 1000);
  return { result: state, text: [] };
}

function condition(
  player: PlayerClient,
  what: string | undefined,
  count: string | undefined,
): ((state: PlayerState) => boolean) | undefined {
  // A result that is there already was seen already: wait for the next one.
  const seen = player.state.room?.phase === "gathering" ? player.state.room.result?.run : undefined;
  switch (what) {
    case "gathering":
    case "travelling":
    case "playing":
      return ({ room }) => room?.phase === what;
    case "boarding":
      return ({ room }) => room?.travel?.step === "boarding";
    case "result":
      return ({ room }) => room?.result !== undefined && room.result.run !== seen && room.phase !== "playing";
    case "members":
      return ({ room }) => room !== undefined && Object.keys(room.members).length >= Number(count);
    default:
      return undefined;
  }
}
