import type { MatchView, QueueMode, QueueSummary, TicketView } from "@yellow-harbor/protocol";
import { CirclePause, Hourglass, Play, RefreshCw } from "lucide-react";
import { type ReactNode, useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { TicketMark } from "../../parts/marks.tsx";
import { May } from "../../parts/may.tsx";
import { Panel } from "../../parts/panel.tsx";
import { plural } from "../../parts/section.tsx";
import { span } from "../../parts/time.ts";
import { wordsOf } from "../../parts/words.ts";
import { type Asked, Why } from "./why.tsx";

const SHOWN = 12;

/** Who waits in a queue and what it has made, with the reason for each, and what an operator may do to it. */
export function QueueDetail({ queue, now, close }: { queue: QueueSummary; now: number; close: () => void }) {
  const [asked, setAsked] = useState<Asked>();
  const [said, setSaid] = useState<string>();
  const { answer: inside, fault } = useLooks(queue.id, async () => {
    const of = { queue: queue.id, limit: SHOWN };
    const [waiting, made] = await Promise.all([store.operator.tickets(of), store.operator.matches(of)]);
    return { ...waiting, ...made };
  });
  if (asked) return <Why asked={asked} close={() => setAsked(undefined)} />;
  const word = said ?? fault;
  return (
    <Panel title={`Queue ${queue.id}`} close={close}>
      <May needs="operate">
        <Verbs queue={queue} say={setSaid} />
      </May>
      {word && <p className="text-sm">{word}</p>}
      {inside ? (
        <>
          <Tickets tickets={inside.tickets} total={inside.total} now={now} ask={setAsked} />
          <Matches matches={inside.matches} now={now} ask={setAsked} />
        </>
      ) : (
        <p className="text-sm opacity-70">Loading.</p>
      )}
    </Panel>
  );
}

const VERBS: Readonly<Record<QueueMode, { word: string; icon: typeof Play; title: string }>> = {
  open: { word: "Open", icon: Play, title: "Open the queue: it takes tickets and makes matches" },
  paused: {
    word: "Pause",
    icon: CirclePause,
    title: "Pause the queue: no new tickets, no matches; tickets keep their wait",
  },
  draining: {
    word: "Drain",
    icon: Hourglass,
    title: "Drain the queue: no new tickets; those that wait are still matched",
  },
};

function Verbs({ queue, say }: { queue: QueueSummary; say: (text: string | undefined) => void }) {
  const carryOut = (act: () => Promise<string | undefined>) => () =>
    void act().then(say, (error: unknown) => say(wordsOf(error)));
  const reload = async () => {
    const { changes, queues } = await store.operator.applyConfig();
    const others = [...queues.changed, ...queues.gone];
    const taken = changes.filter(({ takes }) => takes === "at-once").length;
    const after = changes.length - taken;
    const rest = after === 0 ? "" : ` ${after} more after a restart.`;
    if (taken === 0) return `The configuration has nothing else to take now.${rest}`;
    if (others.length === 0) return `Taken: ${taken} values, none of queues.${rest}`;
    return `Taken: ${others.join(", ")} changed. Everybody keeps the wait they have.${rest}`;
  };
  const others = (Object.keys(VERBS) as QueueMode[]).filter((mode) => mode !== queue.mode);
  return (
    <div className="flex flex-wrap gap-2">
      {others.map((mode) => {
        const { word, icon: Icon, title } = VERBS[mode];
        const set = async () => {
          await store.operator.setQueueMode(queue.id, mode);
          return undefined;
        };
        return (
          <button key={mode} type="button" className="btn btn-xs" title={title} onClick={carryOut(set)}>
            <Icon size={13} aria-hidden /> {word}
          </button>
        );
      })}
      <button
        type="button"
        className="btn btn-xs"
        title="Read the configuration file again, and take what can be taken while the service runs"
        onClick={carryOut(reload)}
      >
        <RefreshCw size={13} aria-hidden /> Apply configuration
      </button>
    </div>
  );
}

interface ListProps {
  readonly now: number;
  readonly ask: (asked: Asked) => void;
}

/** A line of a list that leads to its reason. */
function Line({ title, ask, children }: { title: string; ask: () => void; children: ReactNode }) {
  return (
    <li>
      <button
        type="button"
        className="flex w-full cursor-pointer items-baseline gap-2 rounded-box bg-base-300/60 px-3 py-1.5 text-left hover:bg-base-300"
        onClick={ask}
        title={title}
      >
        {children}
      </button>
    </li>
  );
}

function Tickets({ tickets, total, now, ask }: ListProps & { tickets: readonly TicketView[]; total: number }) {
  return (
    <section className="space-y-1.5 text-sm">
      <h3 className="font-medium">{total === 0 ? "Nobody waits" : `${plural(total, "ticket")}, longest wait first`}</h3>
      <ul className="space-y-1">
        {tickets.map(({ id, players, state, sinceMs }) => (
          <Line key={id} title="Why is it still waiting?" ask={() => ask({ about: "ticket", id })}>
            <span className="min-w-0 flex-1 truncate">{players.map(({ name }) => name).join(", ")}</span>
            <TicketMark state={state} />
            <span className="w-12 text-right tabular-nums">{sinceMs === undefined ? "-" : span(now - sinceMs)}</span>
          </Line>
        ))}
      </ul>
      {total > tickets.length && <p className="text-xs opacity-70">And {total - tickets.length} more.</p>}
    </section>
  );
}

function Matches({ matches, now, ask }: ListProps & { matches: readonly MatchView[] }) {
  if (matches.length === 0) return null;
  return (
    <section className="space-y-1.5 text-sm">
      <h3 className="font-medium">Last matches</h3>
      <ul className="space-y-1">
        {matches.map((match) => (
          <Line key={match.id} title="Why these?" ask={() => ask({ about: "match", id: match.id })}>
            <span className="whitespace-nowrap tabular-nums">{match.sides.map((side) => side.length).join(" : ")}</span>
            <span className="min-w-0 flex-1 truncate opacity-80">{madeText(match)}</span>
            <span className="whitespace-nowrap text-right tabular-nums">{span(now - match.atMs)} ago</span>
          </Line>
        ))}
      </ul>
    </section>
  );
}

function madeText({ quality, into, confirming }: MatchView): string {
  if (confirming) return "confirming";
  const [spread] = Object.entries(quality.spread);
  const how = spread ? `${spread[0]} within ${Math.round(spread[1])}` : `waited ${quality.longestWaitS} s`;
  return into === undefined ? how : `fills a room, ${how}`;
}
