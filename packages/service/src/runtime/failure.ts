import { type Problem, problem } from "@yellow-harbor/protocol";

/** What has ended the taking of commands. */
export interface RuntimeFailure {
  readonly what: "journal" | "core";
  readonly error: Error;
}

export const failureText: Readonly<Record<RuntimeFailure["what"], string>> = {
  journal: "the journal cannot be written",
  core: "a decision met a fault of the service",
};

/** Why nothing is taken any more, in a sentence without an end. */
export const failureDetail = ({ what, error }: RuntimeFailure): string => `${failureText[what]}: ${error.message}`;

export const problemOf = ({ what }: RuntimeFailure): Problem =>
  what === "journal"
    ? problem(
        "journal-unavailable",
        "The journal cannot be written, so nothing is taken until the service was restarted; try again later.",
      )
    : problem(
        "service-halted",
        "A fault of the service has stopped it before it could go on wrongly; what was acknowledged is kept. Try again once it was restarted.",
      );
