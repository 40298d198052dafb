import type { AuditCheck } from "@yellow-harbor/protocol";
import { CircleCheck, CircleX } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, Section } from "../../parts/section.tsx";
import { Table, Verb } from "../../parts/table.tsx";
import { span } from "../../parts/time.ts";

const SHOWN = 50;

/** What operators did: for those who may do something themselves. */
export function Audit({ now, say }: { now: number; say: (error: unknown) => void }) {
  const { answer } = useLooks("audit", () => store.operator.audit({ limit: SHOWN }));
  const [check, setCheck] = useState<AuditCheck>();
  const entries = answer?.entries ?? [];
  const look = () => void store.operator.checkAudit().then(setCheck, say);
  return (
    <Section
      id="audit"
      title="Audit"
      count={entries.length === SHOWN ? `the last ${SHOWN}` : `${entries.length} entries`}
    >
      <p className="mb-2 flex items-center gap-3 text-sm">
        <Verb title="Hold every entry against the sums" onClick={look}>
          Check the log
        </Verb>
        {check && <Checked check={check} />}
      </p>
      {entries.length === 0 ? (
        <Empty>No entries: no operator has changed anything yet.</Empty>
      ) : (
        <Table
          rows={entries}
          idOf={({ seq }) => seq}
          columns={[
            { heading: "When", value: ({ atMs }) => `${span(now - atMs)} ago` },
            { heading: "Who", value: ({ actor }) => actor.name },
            { heading: "By", value: ({ actor }) => actor.by },
            { heading: "From", value: ({ from }) => from, mono: true },
            { heading: "Action", value: ({ action }) => action },
            { heading: "On", value: ({ target }) => target ?? "-", mono: true },
            { heading: "Result", value: ({ result }) => <Result result={result} /> },
            { heading: "Reason", value: ({ reason }) => reason ?? "-" },
          ]}
        />
      )}
    </Section>
  );
}

function Result({ result }: { result: string }) {
  const Icon = result === "done" ? CircleCheck : CircleX;
  return (
    <span
      className={`flex items-center gap-1 whitespace-nowrap ${result === "done" ? "text-success" : "text-warning"}`}
    >
      <Icon size={14} aria-hidden /> {result}
    </span>
  );
}

function Checked({ check: { entries, fault } }: { check: AuditCheck }) {
  return fault === undefined ? (
    <span className="text-success">All {entries} entries are there as they were written.</span>
  ) : (
    <span className="text-error">It was changed: {fault}.</span>
  );
}
