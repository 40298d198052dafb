import { useInfiniteQuery } from "@tanstack/react-query";
import type { PlayerHistory } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { Since } from "../../parts/since.tsx";
import { wordsOf } from "../../parts/words.ts";

const PAGE = 30;
const LOOK_MS = 10_000;

/** What a player was refused lately, and what it did and what happened to it, the newest first. */
export function PlayerStory({ player }: { player: string }) {
  const asked = useInfiniteQuery({
    queryKey: ["story", player],
    queryFn: ({ pageParam }) =>
      store.operator.playerHistory(player, { story: PAGE, ...(pageParam > 0 && { before: pageParam }) }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.older,
    refetchInterval: LOOK_MS,
  });
  const pages = asked.data?.pages ?? [];
  const story = pages.flatMap((page) => [...page.story].reverse());
  return (
    <>
      {asked.error && <p className="text-sm text-warning">{wordsOf(asked.error)}</p>}
      <Refusals refusals={pages[0]?.refusals ?? []} />
      <section aria-label="What happened" className="text-sm">
        <h3 className="mb-1 font-semibold">What happened</h3>
        {asked.isPending && <p className="opacity-80">Loading from the journal.</p>}
        <ol className="space-y-1">
          {story.map(({ seq, atMs, text }) => (
            <li key={seq} className="grid grid-cols-[4.5rem_minmax(0,1fr)] break-words">
              <time className="font-mono text-xs leading-5 opacity-70" title={`event ${seq} of the journal`}>
                {new Date(atMs).toLocaleTimeString("en-GB")}
              </time>
              <span>{text}</span>
            </li>
          ))}
        </ol>
        {asked.hasNextPage && (
          <button
            type="button"
            className="btn btn-xs mt-2"
            disabled={asked.isFetching}
            onClick={() => void asked.fetchNextPage()}
          >
            What was before
          </button>
        )}
      </section>
    </>
  );
}

function Refusals({ refusals }: Pick<PlayerHistory, "refusals">) {
  if (refusals.length === 0) return null;
  return (
    <section aria-label="Refused lately" className="text-sm">
      <h3 className="mb-1 font-semibold">Refused lately</h3>
      <ul className="space-y-1.5">
        {refusals.map(({ atMs, ask, code, detail, times }) => (
          <li key={`${atMs} ${ask} ${code}`}>
            <span className="font-mono text-xs">{ask}</span>, <Since atMs={atMs} /> ago
            {times > 1 && `, ${times} times in a row`}: {detail}{" "}
            <span className="whitespace-nowrap font-mono text-xs text-warning">{code}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
