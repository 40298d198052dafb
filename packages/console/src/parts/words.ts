import { ProblemError } from "@yellow-harbor/client";

/** What went wrong, as it is told to people. */
export const wordsOf = (error: unknown): string =>
  error instanceof ProblemError ? error.problem.detail : (error as Error).message;
