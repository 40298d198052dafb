import type { TicketExplanation } from "@yellow-harbor/protocol";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Panel } from "../../parts/panel.tsx";

export interface Asked {
  readonly about: "ticket" | "match";
  readonly id: string;
}

interface Answer {
  readonly text: readonly string[];
  readonly funnel: TicketExplanation["funnel"];
}

/** Why a ticket still waits, kept up to date, or why a match was made of these. */
export function Why({ asked, close }: { asked: Asked; close: () => void }) {
  const { answer, fault } = useLooks(asked.id, async (): Promise<Answer> => {
    const { operator } = store;
    if (asked.about === "ticket") return operator.explainTicket(asked.id);
    return { ...(await operator.explainMatch(asked.id)), funnel: [] };
  });
  const funnel = answer?.funnel ?? [];
  // What the bars tell is not told again in words.
  const lines = (answer?.text ?? []).filter((line) => !funnel.some(({ text }) => text === line));
  return (
    <Panel title={asked.about === "ticket" ? "Why it is still waiting" : "Why these"} close={close}>
      {fault && <p className="text-sm text-warning">{fault}</p>}
      <Funnel steps={funnel} />
      <ol className="space-y-1.5 text-sm">
        {lines.map((line) => (
          <li key={line} className="rounded-box bg-base-300/60 px-3 py-2">
            {line}
          </li>
        ))}
      </ol>
    </Panel>
  );
}

/** How many of the others remain after each rule. */
function Funnel({ steps }: { steps: Answer["funnel"] }) {
  const max = Math.max(1, steps[0]?.left ?? 0);
  if (steps.length === 0) return null;
  return (
    <ol aria-label="Tickets left after each rule" className="space-y-1 text-sm">
      {steps.map(({ rule, left, text }) => (
        <li key={rule} title={text} className="flex items-center gap-2">
          <span className="w-24 truncate opacity-80">{rule}</span>
          <span className="h-3 flex-1 rounded-sm bg-base-300">
            <span className="block h-3 rounded-sm bg-info" style={{ width: `${(100 * left) / max}%` }} />
          </span>
          <span className="w-8 text-right tabular-nums">{left}</span>
        </li>
      ))}
    </ol>
  );
}
