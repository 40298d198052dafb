import { pathToFileURL } from "node:url";
import { ProblemError } from "@yellow-harbor/client";
import type { BoardingPass } from "@yellow-harbor/protocol";

/** A bot on an instance. How to get there only the game knows. */
export interface Aboard {
  /** Resolves when the run is over. */
  play(): Promise<unknown>;
  disembark(): void;
}
export type GoAboard = (pass: BoardingPass) => Promise<Aboard>;

/** Loads the game's own way aboard: a module that exports `goAboard(pass)`. */
export async function loadAboard(path: string): Promise<GoAboard> {
  const usage = `--aboard ${path}: expected a module that exports goAboard(pass), resolving with play() and disembark()`;
  let loaded: { goAboard?: unknown };
  try {
    loaded = (await import(pathToFileURL(path).href)) as { goAboard?: unknown };
  } catch (error) {
    throw ProblemError.of("usage", `${usage}; it cannot be loaded: ${(error as Error).message}`);
  }
  if (typeof loaded.goAboard !== "function") throw ProblemError.of("usage", `${usage}; it exports no such function.`);
  return loaded.goAboard as GoAboard;
}
