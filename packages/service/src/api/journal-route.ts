import { readEvent } from "@yellow-harbor/core";
import { JournalPage, JournalQuery } from "@yellow-harbor/protocol";
import type { Api, ApiParts } from "./parts.ts";

/** So many rows are looked at for one answer; a filter that fits few of them is answered in several pages. */
const LOOKED_AT_MOST = 5_000;

/** What happened, as it was recorded. */
export function journalRoute(api: Api, { journal, runtime }: ApiParts): void {
  const schema = {
    tags: ["service"],
    security: [{ operatorToken: [] }],
    summary: "Events of the journal, in order. A page may be empty while the journal goes on: ask on after `next`.",
    querystring: JournalQuery,
    response: { 200: JournalPage },
  };
  api.get("/v1/journal", { schema }, async ({ query: { after, limit, kind, about } }) => {
    const rows = await journal.read(after + 1, LOOKED_AT_MOST);
    const isWanted = (row: (typeof rows)[number]) =>
      (kind === undefined || row.kind === kind || row.kind.startsWith(`${kind}.`)) &&
      (about === undefined || row.body.includes(JSON.stringify(about)));
    const events: JournalPage["events"] = [];
    let looked = after;
    for (const row of rows) {
      if (events.length >= limit) break;
      looked = row.seq;
      if (!isWanted(row)) continue;
      // From the key every room code could be worked out.
      const { kind: _, codeKey: __, ...event } = readEvent(row) as Record<string, unknown>;
      events.push({ seq: row.seq, atMs: row.atMs, kind: row.kind, event });
    }
    return { events, ...(looked < runtime.journalStatus.seq && rows.length > 0 && { next: looked }) };
  });
}
