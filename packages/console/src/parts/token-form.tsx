import { useState } from "react";
import { store } from "../live/use-live.ts";

/** Shown when the service wants to know who asks. */
export function TokenForm({ detail }: { detail: string }) {
  const [token, setToken] = useState("");
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    if (token.trim()) store.signIn(token.trim());
  };
  return (
    <form onSubmit={submit} className="mx-auto mt-24 flex max-w-md flex-col gap-3 rounded-box bg-base-200 p-6">
      <h1 className="font-semibold text-lg">An operator token is needed</h1>
      <p className="text-sm opacity-80">{detail}</p>
      <input
        className="input w-full font-mono"
        type="password"
        autoComplete="off"
        placeholder="token"
        aria-label="Operator token"
        value={token}
        onChange={(event) => setToken(event.target.value)}
      />
      <button type="submit" className="btn btn-primary">
        Look in
      </button>
    </form>
  );
}
