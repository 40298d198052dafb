import type { RoomView } from "@yellow-harbor/protocol";
import { History } from "lucide-react";
import { useState } from "react";
import { Panel } from "../../parts/panel.tsx";
import { RoomBody } from "./body.tsx";
import { GiveUpTravel } from "./give-up-travel.tsx";
import { RoomHistoryPanel } from "./history.tsx";
import { RoomVerbs } from "./verbs.tsx";
import { WhyJoin } from "./why-join.tsx";

/** A chosen room as it is, and on demand as it was. */
export function RoomDetail({ room, now, close }: { room: RoomView; now: number; close: () => void }) {
  const [looksBack, setLooksBack] = useState(false);
  if (looksBack) return <RoomHistoryPanel room={room.id} close={() => setLooksBack(false)} />;
  return (
    <Panel title={`Room ${room.code}`} close={close}>
      <RoomBody room={room} now={now} />
      <div className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-xs" onClick={() => setLooksBack(true)}>
          <History size={13} aria-hidden /> Look back
        </button>
        {room.travel && <GiveUpTravel room={room} />}
        <WhyJoin room={room} />
      </div>
      <RoomVerbs key={room.id} room={room} />
    </Panel>
  );
}
