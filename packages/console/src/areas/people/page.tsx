import { useState } from "react";
import { NavLink } from "react-router";
import { useOpen } from "../../live/use-address.ts";
import { useHarbor } from "../../live/use-live.ts";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { wordsOf } from "../../parts/words.ts";
import { PlayerDetail } from "./detail.tsx";
import { Parties } from "./parties.tsx";
import { Players } from "./players.tsx";
import { Reports } from "./reports.tsx";

const LISTS = [
  ["/people", "Players"],
  ["/people/parties", "Parties"],
  ["/people/reports", "Reports"],
] as const;

/** Who is here, who is together, and what they tell of each other. The chosen one opens beside the list. */
export function PeoplePage({ list }: { list: "players" | "parties" | "reports" }) {
  const state = useHarbor();
  const now = useNow();
  const { open, choose, close } = useOpen();
  const [said, setSaid] = useState<{ readonly text: string; readonly isFault: boolean }>();
  const say = (text: string) => setSaid({ text, isFault: false });
  const fault = (error: unknown) => setSaid({ text: wordsOf(error), isFault: true });
  const detail = open !== undefined && (
    <PlayerDetail key={open} player={open} state={state} now={now} told={{ say, fault }} close={close} />
  );
  return (
    <Columns chosen={detail || undefined}>
      {said && (
        <p role="status" className={`rounded-box bg-base-200 px-4 py-3 text-sm ${said.isFault ? "text-error" : ""}`}>
          {said.text}
        </p>
      )}
      <nav aria-label="Of people" className="flex gap-1">
        {LISTS.map(([to, word]) => (
          <NavLink
            key={to}
            to={to}
            end
            className={({ isActive }) => `btn btn-sm ${isActive ? "btn-neutral" : "btn-ghost"}`}
          >
            {word}
          </NavLink>
        ))}
      </nav>
      {list === "players" && <Players state={state} open={open} choose={choose} />}
      {list === "parties" && <Parties lobbies={state.lobbies} now={now} choose={choose} />}
      {list === "reports" && <Reports now={now} choose={choose} />}
    </Columns>
  );
}
