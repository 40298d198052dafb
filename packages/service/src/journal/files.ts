export const DATABASE_FILE = "harbor.sqlite";
export const HEAD_FILE = "harbor.head";
export const LOCK_FILE = "lock.sqlite";

/**
 * The script of one of this folder's threads. Tests run the sources, but a thread does not inherit their loader: it is
 * taken from the build, which they make first.
 */
export const threadFile = (name: "sqlite-thread" | "archive-thread"): URL =>
  new URL(import.meta.url.endsWith(".ts") ? `../../dist/journal/${name}.js` : `./${name}.js`, import.meta.url);
