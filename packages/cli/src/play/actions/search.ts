import { type PlayerClient, ProblemError } from "@yellow-harbor/client";
import type { QueueSummary, TicketView } from "@yellow-harbor/protocol";
import { type Actions, type Done, quiet, wrong } from "./action.ts";

const USAGE = "search QUEUE[,QUEUE ...] [skill=1500 ...] [to:REGION=22 ...] [with=PLAYER ...|alone]";

/** Searching for a match, alone or with a party. */
export const searchActions = {
  queues: {
    usage: "queues",
    about: "list the queues of the lobby",
    run: async (player) => {
      const { queues } = await player.ask("queue.list", {});
      return { result: queues, text: queues.length === 0 ? ["The lobby has no queues."] : queues.map(line) };
    },
  },
  search: {
    usage: USAGE,
    about: "search for a match in one or several queues, with attributes, latencies to regions, and a party",
    run: async (player, [queues = "", ...words]) => {
      const [queue, ...also] = queues.split(",");
      if (queue === undefined || queue === "") throw wrong(USAGE);
      const more = also.length > 0 ? { also } : {};
      const measured = await measuredFor(player, queues.split(","));
      const { ticket } = await player.search({
        queue,
        ...more,
        ...measured,
        ...broughtBy(words),
        ...withOthers(words),
      });
      return { result: ticket, text: [] };
    },
  },
  agree: {
    usage: "agree [skill=1500 ...] [to:REGION=22 ...]",
    about: "agree to the search that a party leader asked you to join",
    run: async (player, words) => {
      const asked = player.ticket;
      if (asked === undefined) throw ProblemError.of("not-searching", "You are not asked to search.");
      const { ticket } = await player.agreeToSearch({ ticket: asked.id, ...broughtBy(words) });
      return { result: ticket, text: [] };
    },
  },
  searching: {
    usage: "searching",
    about: "how long you have searched, and how long it usually takes",
    run: async (player) => {
      const { ticket } = await player.ask("queue.ticket", {});
      return { result: ticket, text: [ticketText(ticket)] };
    },
  },
  accept: {
    usage: "accept",
    about: "accept the match that was found",
    run: (player) => answer(player, true),
  },
  decline: {
    usage: "decline",
    about: "decline the match that was found, and stop searching for a while",
    run: (player) => answer(player, false),
  },
  backfill: {
    usage: "backfill on|off",
    about: "have the queue replace players who left, or not (host)",
    run: (player, [word]) => {
      if (word !== "on" && word !== "off") throw wrong("backfill on|off");
      return quiet(player.ask("queue.backfill", { wanted: word === "on" }));
    },
  },
  cancel: {
    usage: "cancel",
    about: "stop searching, for the whole party",
    run: (player) => quiet(player.cancelSearch()),
  },
} satisfies Actions;

function answer(player: PlayerClient, accept: boolean): Promise<Done> {
  const match = player.ticket?.confirm?.match;
  if (match === undefined) throw ProblemError.of("match-gone", "You are not asked about a match.");
  return quiet(player.confirmMatch({ match, accept }));
}

const line = ({ id, title, mode, players }: QueueSummary) =>
  `${id}  ${title}; ${mode}, ${players} ${players === 1 ? "player searches" : "players search"}`;

/** A ticket in a sentence, with an honest word about the wait. */
export function ticketText({ queue, state, sinceMs, players, estimate, confirm }: TicketView): string {
  if (confirm) {
    const leftS = Math.max(0, Math.round((confirm.untilMs - Date.now()) / 1_000));
    return `A match of ${confirm.players} was found in ${queue}, and ${confirm.accepted.length} have accepted; type accept or decline within ${leftS} s.`;
  }
  if (state === "asking") {
    const missing = players.filter(({ agreed }) => !agreed).map(({ name }) => name);
    return `To search in ${queue} together, ${missing.join(" and ")} still ${missing.length === 1 ? "has" : "have"} to agree.`;
  }
  const waitedS = Math.max(0, Math.round((Date.now() - (sinceMs ?? Date.now())) / 1_000));
  const head = state === "held" ? `The search in ${queue} is held while somebody is away` : `Searching in ${queue}`;
  const wait = estimate
    ? `median wait ${estimate.p50S} s, half of all waits between ${estimate.p25S} and ${estimate.p75S} s`
    : "the usual wait is not known yet";
  return `${head}, for ${waitedS} s; ${wait}.`;
}

type Own = Pick<Parameters<PlayerClient["search"]>[0], "attributes" | "latencyMs">;

/** What one brings to searches, as it was typed. */
export function broughtBy(words: readonly string[], usage = USAGE): Own {
  const attributes: Record<string, string | number | string[]> = {};
  const latencyMs: Record<string, number> = {};
  for (const word of words) {
    if (word === "alone") continue;
    const [, key, value] = /^([^=]+)=(.*)$/.exec(word) ?? [];
    if (key === undefined || value === undefined) throw wrong(usage);
    if (key === "with") continue;
    if (key.startsWith("to:")) latencyMs[key.slice(3)] = Number(value);
    else attributes[key] = wordValue(value);
  }
  return {
    ...(Object.keys(attributes).length > 0 && { attributes }),
    ...(Object.keys(latencyMs).length > 0 && { latencyMs }),
  };
}

/** The latencies that queues look at, as far as they were measured. */
async function measuredFor(player: PlayerClient, wanted: readonly string[]): Promise<Pick<Own, "latencyMs">> {
  const known = Object.entries(player.regions.latencyMs);
  if (known.length === 0) return {};
  const { queues } = await player.listQueues();
  const regions = queues.filter(({ id }) => wanted.includes(id)).flatMap(({ requires }) => requires.regions);
  const latencyMs = Object.fromEntries(known.filter(([region]) => regions.includes(region)));
  return Object.keys(latencyMs).length > 0 ? { latencyMs } : {};
}

function wordValue(typed: string): string | number | string[] {
  if (typed.includes(",")) return typed.split(",");
  return typed !== "" && Number.isFinite(Number(typed)) ? Number(typed) : typed;
}

/** Those whom one names, or nobody in particular: then one's party comes along. */
function withOthers(words: readonly string[]): { with?: string[]; alone?: boolean } {
  const others = words.filter((word) => word.startsWith("with=")).map((word) => word.slice("with=".length));
  if (others.length > 0) return { with: others };
  return words.includes("alone") ? { alone: true } : {};
}
