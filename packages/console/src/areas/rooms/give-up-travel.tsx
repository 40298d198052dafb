import type { RoomView } from "@yellow-harbor/protocol";
import { Undo2 } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useMay } from "../../parts/may.tsx";
import { wordsOf } from "../../parts/words.ts";

/** Gives a room's travel up, after a second thought. */
export function GiveUpTravel({ room }: { room: RoomView }) {
  const [isSure, setIsSure] = useState(false);
  const [fault, setFault] = useState<string>();
  const mayGiveUp = useMay("operate");
  const giveUp = async () => {
    setIsSure(false);
    try {
      await store.operator.abortTravel(room.id);
    } catch (error) {
      setFault(wordsOf(error));
    }
  };
  if (!mayGiveUp) return null;
  return (
    <>
      {isSure ? (
        <button type="button" className="btn btn-xs btn-warning" onClick={giveUp}>
          Everybody goes back: do it
        </button>
      ) : (
        <button type="button" className="btn btn-xs" onClick={() => setIsSure(true)}>
          <Undo2 size={13} aria-hidden /> Give the travel up
        </button>
      )}
      {fault && <p className="text-error text-sm">{fault}</p>}
    </>
  );
}
