import { type Problem, problem } from "@yellow-harbor/protocol";

/**
 * What has ended the taking of commands. `away`: the log rejected a batch, and may be had again. `fenced`: somebody else owns
 * the harbor. `core`: a fault of the service.
 */
export interface RuntimeFailure {
  readonly what: "away" | "fenced" | "core";
  readonly error: Error;
}

export const failureText: Readonly<Record<RuntimeFailure["what"], string>> = {
  away: "the journal cannot be written",
  fenced: "another process writes to the journal",
  core: "a decision met a fault of the service",
};

/** Why nothing is taken any more, in a sentence without an end. */
export const failureDetail = ({ what, error }: RuntimeFailure): string => `${failureText[what]}: ${error.message}`;

/** What has to happen before anything is taken again. */
export const failureRemedy: Readonly<Record<RuntimeFailure["what"], string>> = {
  away: "It is tried again every few seconds; make room on its disk.",
  fenced: "See which process has the data folder, and restart this one.",
  core: "Restart the service.",
};

export const problemOf = ({ what }: RuntimeFailure): Problem =>
  what === "core"
    ? problem(
        "service-halted",
        "A fault of the service has stopped it before it could go on wrongly; what was acknowledged is kept. Try again once it was restarted.",
      )
    : problem(
        "journal-unavailable",
        "The journal cannot be written now, so nothing is taken; what was acknowledged is kept. Try again in a few seconds.",
      );
