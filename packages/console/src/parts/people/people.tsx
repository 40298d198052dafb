import type { HarborView } from "@yellow-harbor/protocol";
import { useState } from "react";
import { wordsOf } from "../words.ts";
import { Parties } from "./parties.tsx";
import { PlayerDetail } from "./player-detail.tsx";
import { Players } from "./players.tsx";
import { Reports } from "./reports.tsx";

/** Who is here, who is together, and what they tell of each other. The chosen one opens beside the lists. */
export function People({ state, now, search }: { state: HarborView; now: number; search: string }) {
  const [chosen, setChosen] = useState<string>();
  const [said, setSaid] = useState<{ readonly text: string; readonly isFault: boolean }>();
  const say = (text: string) => setSaid({ text, isFault: false });
  const fault = (error: unknown) => setSaid({ text: wordsOf(error), isFault: true });
  return (
    <div className="flex min-h-0 flex-1">
      <main className="min-w-0 flex-1 space-y-7 overflow-y-auto p-5">
        {said && (
          <p role="status" className={`rounded-box bg-base-200 px-4 py-3 text-sm ${said.isFault ? "text-error" : ""}`}>
            {said.text}
          </p>
        )}
        <Players state={state} search={search} chosen={chosen} choose={setChosen} />
        <Parties lobbies={state.lobbies} now={now} choose={setChosen} />
        <Reports now={now} choose={setChosen} />
      </main>
      {chosen !== undefined && (
        <aside className="w-[21rem] shrink-0 overflow-y-auto border-base-300 border-l p-4">
          <PlayerDetail
            key={chosen}
            player={chosen}
            state={state}
            now={now}
            told={{ say, fault }}
            close={() => setChosen(undefined)}
          />
        </aside>
      )}
    </div>
  );
}
