import type { RoomHistory } from "@yellow-harbor/protocol";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { useEffect, useState } from "react";
import { store } from "../../live/use-live.ts";
import { Panel } from "../../parts/panel.tsx";
import { wordsOf } from "../../parts/words.ts";
import { RoomBody } from "./body.tsx";

const TOLD = 30;

/** A room at any moment of its past: one event on, one back, or any that is told. */
export function RoomHistoryPanel({ room, close }: { room: string; close: () => void }) {
  const [seq, setSeq] = useState<number>();
  const [past, setPast] = useState<RoomHistory>();
  const [fault, setFault] = useState<string>();
  useEffect(() => {
    // An answer that comes after the next question is not shown any more.
    let isWanted = true;
    const query = { story: TOLD, ...(seq !== undefined && { seq }) };
    store.operator.history(room, query).then(
      (answer) => {
        if (!isWanted) return;
        setPast(answer);
        setFault(undefined);
      },
      (error: unknown) => isWanted && setFault(wordsOf(error)),
    );
    return () => {
      isWanted = false;
    };
  }, [room, seq]);
  return (
    <Panel title={past ? `Room ${past.room.code}, looking back` : "Looking back"} close={close}>
      {fault && <p className="text-error text-sm">{fault}</p>}
      {past ? (
        <PointInTime past={past} goTo={setSeq} />
      ) : (
        !fault && <p className="text-sm opacity-80">Loading from the journal.</p>
      )}
    </Panel>
  );
}

function PointInTime({ past, goTo }: { past: RoomHistory; goTo: (seq: number) => void }) {
  const { story, room, closed, next } = past;
  const moment = story.at(-1);
  const before = story.at(-2)?.seq;
  if (moment === undefined) return null;
  return (
    <>
      <nav aria-label="Events of the journal" className="flex items-center gap-1 text-sm">
        <Step label="Previous event" to={before} goTo={goTo}>
          <ChevronLeft size={16} aria-hidden />
        </Step>
        <span className="flex-1 text-center tabular-nums">
          event {moment.seq}, {new Date(moment.atMs).toLocaleTimeString("en-GB")}
        </span>
        <Step label="Next event" to={next} goTo={goTo}>
          <ChevronRight size={16} aria-hidden />
        </Step>
      </nav>
      {closed && <p className="text-sm text-warning">This event closed the room. Its state before that:</p>}
      <RoomBody room={room} now={moment.atMs} />
      <ol aria-label="What led to this" className="max-h-64 space-y-1 overflow-y-auto text-sm">
        {[...story].reverse().map(({ seq, atMs, kind, text }) => (
          <li key={seq}>
            <button
              type="button"
              className={`grid w-full cursor-pointer grid-cols-[4.5rem_1fr] text-left hover:underline ${seq === moment.seq ? "font-semibold" : ""}`}
              onClick={() => goTo(seq)}
            >
              <time className="font-mono text-xs leading-5 opacity-75">
                {new Date(atMs).toLocaleTimeString("en-GB")}
              </time>
              <span>{text ?? kind}</span>
            </button>
          </li>
        ))}
      </ol>
    </>
  );
}

interface StepProps {
  readonly label: string;
  readonly to: number | undefined;
  readonly goTo: (seq: number) => void;
  readonly children: React.ReactNode;
}

function Step({ label, to, goTo, children }: StepProps) {
  return (
    <button
      type="button"
      className="btn btn-square btn-xs"
      aria-label={label}
      disabled={to === undefined}
      onClick={() => to !== undefined && goTo(to)}
    >
      {children}
    </button>
  );
}
