import type { RoomView } from "@yellow-harbor/protocol";
import { useMemo } from "react";
import { useInAddress, useOpen } from "../../live/use-address.ts";
import { useHarbor } from "../../live/use-live.ts";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { RoomDetail } from "./detail.tsx";
import { RoomHistoryPanel } from "./history.tsx";
import { Rooms } from "./rooms.tsx";

/** All rooms, and one of them beside the list: as it is, or as it was. */
export function RoomsPage() {
  const state = useHarbor();
  const now = useNow();
  const { open, choose, close } = useOpen();
  const [find] = useInAddress("find");
  const [phase] = useInAddress("phase");
  const [lobby] = useInAddress("lobby");
  const rooms = useMemo(
    () =>
      Object.values(state.rooms)
        .filter((room) => (phase === "" || room.phase === phase) && (lobby === "" || room.lobby === lobby))
        .filter((room) => fits(room, find.trim().toLowerCase()))
        .sort((a, b) => a.openedAtMs - b.openedAtMs),
    [state.rooms, phase, lobby, find],
  );
  return (
    <Columns chosen={open && <Chosen id={open} room={state.rooms[open]} now={now} close={close} />} hasEvents>
      <Rooms rooms={rooms} state={state} find={find.trim()} open={open} choose={choose} />
    </Columns>
  );
}

interface ChosenProps {
  readonly id: string;
  readonly room: RoomView | undefined;
  readonly now: number;
  readonly close: () => void;
}

function Chosen({ id, room, now, close }: ChosenProps) {
  if (room) return <RoomDetail room={room} now={now} close={close} />;
  // It has closed; the journal still knows it.
  return <RoomHistoryPanel key={id} room={id} close={close} />;
}

function fits(room: RoomView, find: string): boolean {
  if (find === "") return true;
  const { code, name, id, phase, level, members } = room;
  const words = [code, name, id, phase, level?.title ?? "", ...Object.values(members).map((one) => one.name)];
  return words.some((word) => word.toLowerCase().includes(find));
}
