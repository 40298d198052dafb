import { useState } from "react";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { May } from "../../parts/may.tsx";
import { wordsOf } from "../../parts/words.ts";
import { Audit } from "./audit.tsx";
import { Bans } from "./bans.tsx";
import { Keys } from "./keys.tsx";
import { Sessions } from "./sessions.tsx";

/** Who may do what here, and what was done. */
export function AccessPage() {
  const now = useNow();
  const [fault, setFault] = useState<string>();
  const say = (error: unknown) => setFault(wordsOf(error));
  return (
    <Columns>
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
    </Columns>
  );
}
