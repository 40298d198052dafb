export const DATABASE_FILE = "harbor.sqlite";
export const HEAD_FILE = "harbor.head";
export const LOCK_FILE = "lock.sqlite";

/**
 * The script of a thread or a worker, which lies beside the module that starts it. Tests run the sources, but a thread does not inherit
 * their loader: it is taken from the bundle, which they make first and which loads in half the time.
 */
export const threadFile = (
  name: "sqlite-thread" | "history-thread" | "matcher-thread" | "player-worker",
  beside: string,
): URL =>
  new URL(`./${name}.js`, beside.endsWith(".ts") ? beside.replace(/\/service\/src\/.*$/, "/cli/dist/bundle/") : beside);
