import { memo, useEffect, useRef } from "react";
import type { StoryLine } from "../live/harbor-store.ts";

const NEAR_END_PX = 40;

/** What happens, in sentences; the newest below. Stays where the reader is unless that is the end. */
export function Story({ lines }: { lines: readonly StoryLine[] }) {
  const box = useRef<HTMLOListElement>(null);
  const isAtEnd = useRef(true);
  const newest = lines.at(-1)?.number;
  useEffect(() => {
    if (newest !== undefined && isAtEnd.current && box.current) box.current.scrollTop = box.current.scrollHeight;
  }, [newest]);
  const lastTop = useRef(0);
  const watchScroll = () => {
    const list = box.current;
    if (!list) return;
    // Lines that come in between scrolling and this event leave the list short of its end; only the reader scrolls up.
    if (list.scrollTop < lastTop.current) isAtEnd.current = false;
    if (list.scrollHeight - list.scrollTop - list.clientHeight < NEAR_END_PX) isAtEnd.current = true;
    lastTop.current = list.scrollTop;
  };
  return (
    <section aria-label="Events" className="flex min-h-64 flex-1 flex-col rounded-box bg-base-200 p-4">
      <h2 className="mb-2 font-semibold">Events</h2>
      {lines.length === 0 ? (
        <p className="text-sm opacity-70">
          Nothing yet since this page was opened. Each arrival, room, travel and instance stands here as it comes.
        </p>
      ) : (
        <ol ref={box} onScroll={watchScroll} className="min-h-0 flex-1 space-y-1.5 overflow-y-auto text-sm">
          {lines.map((line) => (
            <Line key={line.number} line={line} />
          ))}
        </ol>
      )}
    </section>
  );
}

/** One that is not in sight is not laid out. */
const Line = memo(({ line }: { line: StoryLine }) => (
  <li className="grid grid-cols-[4.5rem_minmax(0,1fr)] break-words [contain-intrinsic-size:auto_2.5rem] [content-visibility:auto]">
    <time className="font-mono text-xs leading-5 opacity-75">{new Date(line.atMs).toLocaleTimeString("en-GB")}</time>
    <span>{line.text}</span>
  </li>
));
