import { type LobbySummary, matchesPerMinute, type QueueSummary } from "@yellow-harbor/protocol";
import { useMemo } from "react";
import { useNow } from "../../live/use-now.ts";
import { Grid, type GridColumn } from "../../parts/grid.tsx";
import { ModeMark } from "../../parts/marks.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Since } from "../../parts/since.tsx";

interface QueuesProps {
  readonly queues: readonly QueueSummary[];
  readonly lobbies: Readonly<Record<string, LobbySummary>>;
  readonly open: string | undefined;
  readonly choose: (id: string) => void;
}

/** Queues: who waits in each and for how long, and what it makes. */
export function Queues({ queues, lobbies, open, choose }: QueuesProps) {
  const columns = useMemo(() => columnsFor(lobbies), [lobbies]);
  return (
    <Section id="queues" title="Queues" count={plural(queues.length, "queue")} fills>
      {queues.length === 0 ? (
        <Empty>No queues. Configure them under queues.</Empty>
      ) : (
        <Grid label="Queues" rows={queues} columns={columns} idOf={({ id }) => id} open={open} choose={choose} />
      )}
    </Section>
  );
}

const columnsFor = (lobbies: Readonly<Record<string, LobbySummary>>): readonly GridColumn<QueueSummary>[] => [
  {
    id: "queue",
    heading: "Queue",
    sortBy: ({ title }) => title,
    cell: ({ id, title, lobby }) => (
      <div>
        <button type="button" className="cursor-pointer whitespace-nowrap font-semibold">
          {title}
        </button>
        <div className="whitespace-nowrap text-xs opacity-70">
          <span className="font-mono">{id}</span> in {lobbies[lobby]?.title ?? lobby}
        </div>
      </div>
    ),
  },
  { id: "mode", heading: "Mode", sortBy: ({ mode }) => mode, cell: ({ mode }) => <ModeMark mode={mode} /> },
  {
    id: "players",
    heading: "Players",
    isFigure: true,
    sortBy: ({ players }) => players,
    cell: ({ players, tickets }) => <span title={plural(tickets, "ticket")}>{players}</span>,
  },
  {
    id: "longest",
    heading: "Longest",
    isFigure: true,
    sortBy: ({ oldestSinceMs }) => -(oldestSinceMs ?? 0),
    cell: ({ oldestSinceMs }) => (oldestSinceMs === undefined ? "-" : <Since atMs={oldestSinceMs} />),
  },
  {
    id: "confirming",
    heading: "Confirming",
    isFigure: true,
    sortBy: ({ confirming }) => confirming,
    cell: ({ confirming }) => confirming,
  },
  {
    id: "backfill",
    heading: "Backfill",
    isFigure: true,
    sortBy: ({ backfill }) => backfill,
    cell: ({ backfill }) => backfill,
  },
  {
    id: "matches",
    heading: "Matches",
    isFigure: true,
    sortBy: ({ matches }) => matches,
    cell: ({ matches }) => matches,
  },
  { id: "per-minute", heading: "Per minute", isFigure: true, cell: (queue) => <PerMinute queue={queue} /> },
  {
    id: "spread",
    heading: "Spread",
    cell: ({ lately }) => lately?.spread.map(({ attribute, mean }) => `${attribute} ${mean}`).join(", ") || "-",
  },
];

function PerMinute({ queue }: { queue: QueueSummary }) {
  return <>{matchesPerMinute(queue, useNow())?.toFixed(1) ?? "-"}</>;
}
