import { readEvent } from "@yellow-harbor/core";
import type { OperatorRoutes, ReportView } from "@yellow-harbor/protocol";
import type { ApiParts } from "./parts.ts";
import type { Handlers } from "./serve-routes.ts";

/** The journal is looked through from its end, so much at a time, and no further than that. */
const CHUNK = 5_000;
const EXAMINED_MAX = 50_000;

/** What players have told of each other's conduct: it stands in the journal alone. */
export const reportHandlers = ({ history, runtime }: ApiParts): Handlers<Pick<OperatorRoutes, "reports">> => ({
  reports: async ({ query: { limit, about } }) => {
    const last = runtime.journalStatus.seq;
    const reports: ReportView[] = [];
    let first = last + 1;
    let atMs: number | undefined;
    while (reports.length < limit && first > 1 && last - first < EXAMINED_MAX) {
      const from = Math.max(1, first - CHUNK);
      const rows = (await history.events(from, first - from)).filter(({ seq }) => seq < first);
      atMs = rows[0]?.atMs ?? atMs;
      const found = rows.filter(({ kind }) => kind === "player.reported").map(reportOf);
      reports.push(...found.reverse().filter((one) => about === undefined || isAbout(one, about)));
      // What was trimmed is not there: nothing older is.
      first = rows.length === 0 ? 1 : from;
    }
    const isMore = first > 1;
    return { reports: reports.slice(0, limit), ...(isMore && atMs !== undefined && { lookedBackMs: atMs }) };
  },
});

type Row = Awaited<ReturnType<ApiParts["history"]["events"]>>[number];

function reportOf(row: Row): ReportView {
  const event = readEvent(row);
  if (event.kind !== "player.reported") throw new Error(`event ${row.seq} is no report`);
  const { kind: _, said, ...report } = event;
  return { number: row.seq, atMs: row.atMs, ...report, said: [...said] };
}

const isAbout = ({ player }: ReportView, about: string): boolean => player.id === about || player.account === about;
