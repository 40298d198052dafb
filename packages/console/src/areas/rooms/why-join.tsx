import type { JoinExplanation, PlayerView, RoomView } from "@yellow-harbor/protocol";
import { CircleHelp } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { wordsOf } from "../../parts/words.ts";

type Answer = { readonly explained: JoinExplanation } | { readonly fault: string };

/** Why can a player not join this room? Choose one; the service lists every obstacle. */
export function WhyJoin({ room }: { room: RoomView }) {
  const [players, setPlayers] = useState<readonly PlayerView[]>();
  const [answer, setAnswer] = useState<Answer>();
  const ask = async () => {
    setAnswer(undefined);
    try {
      setPlayers((await store.operator.players({ limit: 500 })).players);
    } catch (error) {
      setAnswer({ fault: wordsOf(error) });
    }
  };
  const explain = async (player: string) => {
    try {
      setAnswer({ explained: await store.operator.explainJoin(room.id, player) });
    } catch (error) {
      setAnswer({ fault: wordsOf(error) });
    }
  };
  return (
    <section className="space-y-2 text-sm">
      {players === undefined ? (
        <button type="button" className="btn btn-xs" onClick={ask}>
          <CircleHelp size={13} aria-hidden /> Why can somebody not join?
        </button>
      ) : (
        <select
          aria-label="Player who wants to join"
          className="select select-xs w-full"
          defaultValue=""
          onChange={(event) => void explain(event.target.value)}
        >
          <option value="" disabled>
            {players.length === 0 ? "Nobody is connected" : "Who wants to join?"}
          </option>
          {players.map(({ id, name, presence }) => (
            <option key={id} value={id}>
              {name}
              {presence === "away" ? " (away)" : ""}
            </option>
          ))}
        </select>
      )}
      {answer &&
        ("fault" in answer ? <p className="text-error">{answer.fault}</p> : <Explained {...answer.explained} />)}
    </section>
  );
}

function Explained({ canJoin, against, text }: JoinExplanation) {
  if (canJoin) return <p className="text-success">{text[0]}</p>;
  return (
    <ol className="space-y-1.5">
      {against.map(({ code, change }, n) => (
        <li key={code} className="rounded-box bg-base-300/60 px-3 py-2">
          {text[n]?.replace(/ What would change it:.*$/, "")}{" "}
          <span className="font-mono text-xs opacity-70">{code}</span>
          <br />
          <span className="opacity-80">It would change: {change}.</span>
        </li>
      ))}
    </ol>
  );
}
