import { useState } from "react";
import { May } from "../may.tsx";
import { wordsOf } from "../words.ts";
import { Configuration } from "./configuration.tsx";
import { Webhooks } from "./webhooks.tsx";

/** How the service is run: what it tells others, and by which configuration. */
export function Operation({ now }: { now: number }) {
  const [said, setSaid] = useState<{ readonly text: string; readonly isFault: boolean }>();
  const say = (text: string) => setSaid({ text, isFault: false });
  const fault = (error: unknown) => setSaid({ text: wordsOf(error), isFault: true });
  return (
    <main className="min-w-0 flex-1 space-y-7 overflow-y-auto p-5">
      {said && (
        <p role="status" className={`rounded-box bg-base-200 px-4 py-3 text-sm ${said.isFault ? "text-error" : ""}`}>
          {said.text}
        </p>
      )}
      <Webhooks now={now} say={say} fault={fault} />
      <May needs="administer">
        <Configuration say={say} fault={fault} />
      </May>
    </main>
  );
}
