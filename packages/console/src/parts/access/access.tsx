import { useState } from "react";
import { May } from "../may.tsx";
import { wordsOf } from "../words.ts";
import { Audit } from "./audit.tsx";
import { Bans } from "./bans.tsx";
import { Keys } from "./keys.tsx";
import { Sessions } from "./sessions.tsx";

/** Who may do what here, and what was done. */
export function Access({ now }: { now: number }) {
  const [fault, setFault] = useState<string>();
  const say = (error: unknown) => setFault(wordsOf(error));
  return (
    <main className="min-w-0 flex-1 space-y-7 overflow-y-auto p-5">
      {fault && (
        <p role="alert" className="rounded-box bg-base-200 px-4 py-3 text-error text-sm">
          {fault}
        </p>
      )}
      <Sessions now={now} say={say} />
      <May needs="administer">
        <Keys now={now} say={say} />
      </May>
      <Bans now={now} say={say} />
      <May needs="operate">
        <Audit now={now} say={say} />
      </May>
    </main>
  );
}
