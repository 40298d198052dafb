import { useMemo } from "react";
import { useOpen } from "../../live/use-address.ts";
import { useHarbor } from "../../live/use-live.ts";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { QueueDetail } from "./detail.tsx";
import { Queues } from "./queues.tsx";

/** All queues, and one of them beside the list: who waits, why, and what it has made. */
export function QueuesPage() {
  const { queues, lobbies } = useHarbor();
  const now = useNow();
  const { open, choose, close } = useOpen();
  const all = useMemo(() => Object.values(queues), [queues]);
  const queue = open === undefined ? undefined : queues[open];
  return (
    <Columns chosen={queue && <QueueDetail key={queue.id} queue={queue} now={now} close={close} />} hasEvents>
      <Queues queues={all} lobbies={lobbies} open={open} choose={choose} />
    </Columns>
  );
}
