import { readFileSync } from "node:fs";
import { ProblemError } from "@yellow-harbor/client";

/**
 * The first line of a file that an option names. What is secret is given so: then it stands in no list of processes and in
 * no history of a shell.
 */
export function firstLineOf(file: string, option: string): string {
  try {
    return readFileSync(file, "utf8").split(/\r?\n/)[0] ?? "";
  } catch (error) {
    throw ProblemError.of("usage", `${option} ${file} cannot be read: ${(error as Error).message}.`);
  }
}
