import { type LobbySummary, matchesPerMinute, type QueueSummary } from "@yellow-harbor/protocol";
import { ModeMark } from "./marks.tsx";
import { Empty, plural, Section } from "./section.tsx";
import { span } from "./time.ts";

interface QueuesProps {
  readonly queues: readonly QueueSummary[];
  readonly lobbies: Readonly<Record<string, LobbySummary>>;
  readonly now: number;
  readonly chosen: string | undefined;
  readonly choose: (id: string) => void;
}

/** Begins the name of a queue among the things that can be chosen: rooms and instances have ids of their own kind. */
export const QUEUE = "queue:";

export function Queues({ queues, lobbies, now, chosen, choose }: QueuesProps) {
  return (
    <Section id="queues" title="Queues" count={plural(queues.length, "queue")}>
      {queues.length === 0 ? (
        <Empty>No queues. Configure them under queues.</Empty>
      ) : (
        <div className="overflow-x-auto rounded-box border border-base-300">
          <table className="table table-sm">
            <thead>
              <tr>
                <th>Queue</th>
                <th>Mode</th>
                <th className="text-right">Players</th>
                <th className="text-right">Longest</th>
                <th className="text-right">Confirming</th>
                <th className="text-right">Backfill</th>
                <th className="text-right">Matches</th>
                <th className="text-right">Per minute</th>
                <th>Spread</th>
              </tr>
            </thead>
            <tbody>
              {queues.map((queue) => (
                <Row
                  key={queue.id}
                  queue={queue}
                  lobby={lobbies[queue.lobby]?.title}
                  isChosen={chosen === QUEUE + queue.id}
                  now={now}
                  choose={choose}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

interface RowProps {
  readonly queue: QueueSummary;
  readonly lobby: string | undefined;
  readonly now: number;
  readonly isChosen: boolean;
  readonly choose: (id: string) => void;
}

function Row({ queue, lobby, now, isChosen, choose }: RowProps) {
  const { id, title, mode, players, tickets, oldestSinceMs, confirming, backfill, matches } = queue;
  return (
    <tr
      onClick={() => choose(QUEUE + id)}
      className={`cursor-pointer hover:bg-base-200 ${isChosen ? "bg-base-300 shadow-[inset_3px_0_0_var(--color-primary)]" : ""}`}
    >
      <td>
        <button type="button" className="cursor-pointer whitespace-nowrap font-semibold" aria-pressed={isChosen}>
          {title}
        </button>
        <div className="whitespace-nowrap text-xs opacity-70">
          <span className="font-mono">{id}</span>
          {lobby && <> in {lobby}</>}
        </div>
      </td>
      <td>
        <ModeMark mode={mode} />
      </td>
      <td className="whitespace-nowrap text-right tabular-nums" title={plural(tickets, "ticket")}>
        {players}
      </td>
      <td className="whitespace-nowrap text-right tabular-nums">
        {oldestSinceMs === undefined ? "-" : span(now - oldestSinceMs)}
      </td>
      <td className="text-right tabular-nums">{confirming}</td>
      <td className="text-right tabular-nums">{backfill}</td>
      <td className="text-right tabular-nums">{matches}</td>
      <td className="text-right tabular-nums">{matchesPerMinute(queue, now)?.toFixed(1) ?? "-"}</td>
      <td>{queue.lately?.spread.map(({ attribute, mean }) => `${attribute} ${mean}`).join(", ") || "-"}</td>
    </tr>
  );
}
