import type { ReportView } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Table } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

const EVERY_MS = 10_000;

/** What players tell of each other's conduct, the newest first. */
export function Reports({ now, choose }: { now: number; choose: (player: string) => void }) {
  const { answer, fault } = useLooks("reports", () => store.operator.reports({ limit: 50 }), EVERY_MS);
  const reports = answer?.reports ?? [];
  const back = answer?.lookedBackMs;
  const count = `${plural(reports.length, "report")}${back === undefined ? "" : ` of the last ${span(now - back)}`}`;
  return (
    <Section id="reports" title="Reports" count={count}>
      {fault && <p className="mb-2 text-error text-sm">{fault}</p>}
      {reports.length === 0 ? (
        <Empty>
          Nobody has reported anybody. Players do with <code>player.report</code>; the webhook{" "}
          <code>player.reported</code> tells your back end.
        </Empty>
      ) : (
        <Table
          rows={reports}
          idOf={({ number }) => number}
          columns={[
            { heading: "When", value: ({ atMs }) => `${span(now - atMs)} ago` },
            { heading: "Whom", value: ({ player }) => <Whom who={player} choose={choose} /> },
            { heading: "For", value: ({ reason }) => reason },
            { heading: "By", value: ({ by }) => <Whom who={by} choose={choose} /> },
            { heading: "In words", value: ({ text }) => text ?? "-" },
            { heading: "What was said", value: ({ said }) => <Said said={said} /> },
          ]}
        />
      )}
    </Section>
  );
}

function Whom({ who: { id, name }, choose }: { who: ReportView["by"]; choose: (player: string) => void }) {
  return (
    <button type="button" className="link link-hover" onClick={() => choose(id)}>
      {name}
    </button>
  );
}

function Said({ said }: { said: ReportView["said"] }) {
  if (said.length === 0) return <>-</>;
  return (
    <ul className="space-y-0.5">
      {said.map(({ text, to, atMs }) => (
        <li key={`${atMs} ${text}`}>
          “{text}” <span className="opacity-70">{to === "lobby" ? "to the lobby" : "to the one who reports"}</span>
        </li>
      ))}
    </ul>
  );
}
