import { type Problem, type ProblemCode, type ProblemExtras, problem } from "@yellow-harbor/protocol";

/** A refusal of the service, or the service not being reachable, as something to throw. */
export class ProblemError extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.name = "ProblemError";
    this.problem = problem;
  }

  get code(): ProblemCode {
    return this.problem.code;
  }

  static of(code: ProblemCode, detail: string, extras?: ProblemExtras): ProblemError {
    return new ProblemError(problem(code, detail, extras));
  }
}
