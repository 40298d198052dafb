import { useNow } from "../live/use-now.ts";
import { span } from "./time.ts";

/** How long something has been so; the exact time on hover. */
export function Since({ atMs }: { atMs: number }) {
  return (
    <time className="whitespace-nowrap" dateTime={new Date(atMs).toISOString()} title={new Date(atMs).toLocaleString()}>
      {span(useNow() - atMs)}
    </time>
  );
}
