import { randomBytes } from "node:crypto";
import { open, rm } from "node:fs/promises";
import { join } from "node:path";
import { pipeline } from "node:stream/promises";
import { type OperatorRoutes, type Problem, problem } from "@yellow-harbor/protocol";
import { sealing } from "../history/sealing.ts";
import type { HistoryAnswer, HistoryMoment } from "../journal/harbor-history.ts";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** What was, and a copy of all that is kept. */
export const historyHandlers = ({
  history,
  dataFolder,
  runtime,
  refusedLately,
}: ApiParts): Handlers<Pick<OperatorRoutes, "history" | "playerHistory" | "backup">> => ({
  history: async ({ params: { room }, query }) => {
    const answer = await history.room({ room, at: momentOf(query), story: query.story });
    if (!answer.found) return { refused: nothingOf(room, answer) };
    const { found: _, story, next, ...rest } = answer;
    const told = story.map(({ text, ...event }) => ({ ...event, ...(text !== undefined && { text }) }));
    return { ...rest, story: told, ...(next !== undefined && { next }) };
  },

  playerHistory: async ({ params: { player: named }, query: { before, story } }) => {
    const byAccount = await runtime.query(({ state }) => state.players.byAccount.get(named));
    const player = byAccount ?? named;
    const told = await history.player({ player, before, story });
    const refusals = refusedLately(player);
    if (!told.found && refusals.length === 0) return { refused: nothingOfPlayer(named) };
    const { story: events = [], older } = told.found ? told : {};
    const texts = events.map(({ text = "", ...event }) => ({ ...event, text }));
    return { player, story: texts, refusals, ...(older !== undefined && { older }) };
  },

  backup: async ({ body: { passphrase }, reply }) => {
    const file = join(dataFolder, `backup-${randomBytes(6).toString("hex")}.sqlite`);
    await history.copyTo(file, { withSecret: passphrase !== undefined });
    const handle = await open(file);
    // Its name goes at once, and the rest with the last byte, however this ends.
    await rm(file, { force: true });
    const bytes = handle.createReadStream();
    if (passphrase === undefined) return reply.type("application/vnd.sqlite3").send(bytes);
    const sealed = sealing(passphrase);
    pipeline(bytes, sealed).catch(() => undefined);
    return reply.type("application/octet-stream").send(sealed);
  },
});

function momentOf({ seq, atMs }: { seq?: number | undefined; atMs?: number | undefined }): HistoryMoment {
  if (seq !== undefined) return { seq };
  return atMs === undefined ? undefined : { atMs };
}

const nothingOfPlayer = (named: string): Problem =>
  problem(
    "player-unknown",
    `The journal tells nothing of a player ${named}. Give the id of a player, or the account of one who is here; \`yh player list\` shows those who are.`,
  );

function nothingOf(room: string, { from }: Extract<HistoryAnswer, { found: false }>): Problem {
  const since = from ? ` It goes back to event ${from.seq} of ${new Date(from.atMs).toISOString()}.` : "";
  return problem("room-unknown", `The journal tells nothing of room ${room} up to that moment.${since}`);
}
