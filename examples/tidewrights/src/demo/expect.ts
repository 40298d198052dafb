import { ProblemError } from "@yellow-harbor/client";
import { NotBoardedError } from "../game/play.ts";

/** Fails the step with what was expected and what is. */
export function expect(holds: boolean, what: string): asserts holds {
  if (!holds) throw new Error(`expected ${what}`);
}

/** The code with which `attempt` is refused. Fails the step when it is not refused. */
export async function refusalOf(
  attempt: Promise<unknown>,
): Promise<{ code: string; detail: string; problem?: ProblemError["problem"] }> {
  try {
    await attempt;
  } catch (error) {
    if (error instanceof ProblemError) return { code: error.code, detail: error.message, problem: error.problem };
    if (error instanceof NotBoardedError) return { code: error.code, detail: error.message };
    throw error;
  }
  throw new Error("expected a refusal, but it was let through");
}
