import { readEvent } from "@yellow-harbor/core";
import type { JournalPage, OperatorRoutes } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handler } from "./serve-routes.ts";

/** So many rows are looked at for one answer; a filter that fits few of them is answered in several pages. */
const EXAMINED_MAX = 5_000;

/** What happened, as it was recorded. */
export const journalHandler =
  ({ history, runtime }: ApiParts): Handler<OperatorRoutes["journal"]> =>
  async ({ query: { after, limit, kind, about } }) => {
    const rows = await history.events(after + 1, EXAMINED_MAX);
    const isWanted = (row: (typeof rows)[number]) =>
      (kind === undefined || row.kind === kind || row.kind.startsWith(`${kind}.`)) &&
      (about === undefined || row.body.includes(JSON.stringify(about)));
    const events: JournalPage["events"] = [];
    let looked = after;
    for (const row of rows) {
      if (events.length >= limit) break;
      looked = row.seq;
      if (!isWanted(row)) continue;
      const { kind: _, ...event } = readEvent(row) as Record<string, unknown>;
      events.push({ seq: row.seq, atMs: row.atMs, kind: row.kind, event });
    }
    return { events, ...(looked < runtime.journalStatus.seq && rows.length > 0 && { next: looked }) };
  };
