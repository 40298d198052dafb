import { type PlayerAsk, requestExamples } from "@yellow-harbor/protocol";
import { useState } from "react";
import type { TryClient } from "./try-client.ts";

const ASKS = Object.keys(requestExamples).sort() as PlayerAsk[];

/** Anything that a client can ask, with its arguments as JSON; the documents' example stands there to begin with. */
export function Ask({ client }: { client: TryClient }) {
  const [ask, setAsk] = useState<PlayerAsk>("lobby.rooms");
  const [args, setArgs] = useState(exampleOf("lobby.rooms"));
  const [fault, setFault] = useState<string>();
  const send = () => {
    try {
      setFault(undefined);
      void client.ask(ask, JSON.parse(args));
    } catch (error) {
      setFault(`That is no JSON: ${(error as Error).message}`);
    }
  };
  return (
    <form
      className="space-y-1"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <div className="join w-full">
        <select
          className="select select-xs join-item flex-1"
          aria-label="What is asked"
          value={ask}
          onChange={(event) => {
            const next = event.target.value as PlayerAsk;
            setAsk(next);
            setArgs(exampleOf(next));
          }}
        >
          {ASKS.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
        <button type="submit" className="btn btn-xs join-item bg-base-100">
          Ask
        </button>
      </div>
      <textarea
        className="textarea textarea-xs w-full font-mono"
        aria-label="Arguments as JSON"
        rows={3}
        value={args}
        onChange={(event) => setArgs(event.target.value)}
      />
      {fault && <p className="text-error text-xs">{fault}</p>}
    </form>
  );
}

const exampleOf = (ask: PlayerAsk): string => JSON.stringify(requestExamples[ask], null, 1);
