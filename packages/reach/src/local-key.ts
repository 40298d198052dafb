import { mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import { join } from "node:path";

/** Where a service of this user notes, for each port, where its key is. It holds paths and no keys. */
const noteFor = (port: number): string => {
  const state = process.env["XDG_STATE_HOME"] ?? join(homedir(), ".local/state");
  return join(state, "yellow-harbor", `port-${port}`);
};

/** Notes where the key of the service on a port is, so that `yh` finds it. Returns how to take that back. */
export function noteKeyFile(port: number, file: string): () => void {
  const note = noteFor(port);
  try {
    mkdirSync(join(note, ".."), { recursive: true, mode: 0o700 });
    writeFileSync(note, `${file}\n`, { mode: 0o600 });
  } catch {
    // Without a home that can be written to, the key is given by hand.
    return () => undefined;
  }
  return () => {
    if (readText(note) === file) rmSync(note, { force: true });
  };
}

export type FoundKey = { readonly key: string } | { readonly unreadable: string } | undefined;

/** The key of a service of this computer that listens on a port, as far as this user may read it. */
export function findKey(port: number): FoundKey {
  const file = readText(noteFor(port));
  if (file === undefined) return undefined;
  const key = readText(file);
  return key === undefined ? { unreadable: file } : { key };
}

function readText(file: string): string | undefined {
  try {
    return readFileSync(file, "utf8").trim();
  } catch {
    return undefined;
  }
}
