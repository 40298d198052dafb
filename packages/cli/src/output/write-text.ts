import { writeFileSync } from "node:fs";
import { ProblemError } from "@yellow-harbor/client";

/** Writes a file, or says why that cannot be. */
export function writeText(file: string, text: string): void {
  try {
    writeFileSync(file, text);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? String(error);
    throw ProblemError.of("usage", `${file} cannot be written: ${code}; check the path.`);
  }
}
