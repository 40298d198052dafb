import type { Problem } from "@yellow-harbor/protocol";
import { KeyRound } from "lucide-react";
import { useState } from "react";
import { store } from "../live/use-live.ts";
import { wordsOf } from "../parts/words.ts";

/** Shown to whoever is not logged in. */
export function LogIn({ problem }: { problem: Problem }) {
  const [key, setKey] = useState("");
  const [fault, setFault] = useState<string>();
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (key.trim() === "") return;
    setFault(undefined);
    store.logIn(key.trim()).catch((error: unknown) => setFault(wordsOf(error)));
  };
  return (
    <form onSubmit={submit} className="mx-auto mt-24 flex max-w-md flex-col gap-3 rounded-box bg-base-200 p-6">
      <h1 className="flex items-center gap-2 font-semibold text-lg">
        <KeyRound size={18} aria-hidden /> Log in with a key
      </h1>
      <p className="text-sm opacity-80">
        {fault ??
          (problem.code === "operator-token-needed" ? "You need a key to look into this service." : problem.detail)}
      </p>
      <input
        className="input w-full font-mono"
        type="password"
        autoComplete="off"
        placeholder="yhk_..."
        aria-label="Key"
        value={key}
        onChange={(event) => setKey(event.target.value)}
      />
      <button type="submit" className="btn btn-primary">
        Log in
      </button>
      <p className="text-xs opacity-70">
        On the service's computer <code>yh console</code> prints a link that logs this browser in. An administrator
        creates keys with <code>yh key create</code>.
      </p>
    </form>
  );
}
