import { randomBytes } from "node:crypto";
import { open, rm } from "node:fs/promises";
import { join } from "node:path";
import { PastQuery, type Problem, problem, RoomHistory } from "@yellow-harbor/protocol";
import type { HistoryAnswer, HistoryMoment } from "../journal/journal.ts";
import { RoomParams } from "./find-room.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

const security = [{ operatorToken: [] }];

/** What was, and a copy of all that is kept. */
export function historyRoutes(api: Api, { journal, dataFolder }: ApiParts): void {
  const historySchema = {
    tags: ["rooms"],
    security,
    params: RoomParams,
    querystring: PastQuery,
    response: { 200: RoomHistory },
    summary: "A room as it was, by id or code, also after it has closed; the newest moment when none is named.",
  };
  api.get("/v1/rooms/:room/history", { schema: historySchema }, async ({ params: { room }, query }, reply) => {
    const answer = await journal.history({ room, at: momentOf(query), story: query.story });
    if (!answer.found) return sendProblem(reply, nothingOf(room, answer));
    const { found: _, story, next, ...rest } = answer;
    const told = story.map(({ text, ...event }) => ({ ...event, ...(text !== undefined && { text }) }));
    return { ...rest, story: told, ...(next !== undefined && { next }) };
  });

  const backupSchema = {
    tags: ["service"],
    security,
    summary:
      "A consistent copy of all that is kept, as one SQLite file, while the service goes on. It holds its secret.",
  };
  api.get("/v1/backup", { schema: backupSchema }, async (_request, reply) => {
    const file = join(dataFolder, `backup-${randomBytes(6).toString("hex")}.sqlite`);
    await journal.copyTo(file);
    const handle = await open(file);
    // It holds the secret: its name goes at once, and the rest with the last byte, however this ends.
    await rm(file, { force: true });
    const stream = handle.createReadStream();
    return reply.type("application/vnd.sqlite3").send(stream);
  });
}

function momentOf({ seq, atMs }: { seq?: number | undefined; atMs?: number | undefined }): HistoryMoment {
  if (seq !== undefined) return { seq };
  return atMs === undefined ? undefined : { atMs };
}

function nothingOf(room: string, { from }: Extract<HistoryAnswer, { found: false }>): Problem {
  const since = from ? ` It goes back to event ${from.seq} of ${new Date(from.atMs).toISOString()}.` : "";
  return problem("room-unknown", `The journal tells nothing of room ${room} up to that moment.${since}`);
}
