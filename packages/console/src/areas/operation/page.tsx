import { useState } from "react";
import { useNow } from "../../live/use-now.ts";
import { Columns } from "../../parts/columns.tsx";
import { May } from "../../parts/may.tsx";
import { wordsOf } from "../../parts/words.ts";
import { Configuration } from "./configuration.tsx";
import { Webhooks } from "./webhooks.tsx";

/** How the service is run: what it tells others, and by which configuration. */
export function OperationPage() {
  const now = useNow();
  const [said, setSaid] = useState<{ readonly text: string; readonly isFault: boolean }>();
  const say = (text: string) => setSaid({ text, isFault: false });
  const fault = (error: unknown) => setSaid({ text: wordsOf(error), isFault: true });
  return (
    <Columns>
      {said && (
        <p role="status" className={`rounded-box bg-base-200 px-4 py-3 text-sm ${said.isFault ? "text-error" : ""}`}>
          {said.text}
        </p>
      )}
      <Webhooks now={now} say={say} fault={fault} />
      <May needs="administer">
        <Configuration say={say} fault={fault} />
      </May>
    </Columns>
  );
}
