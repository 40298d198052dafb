import type { ProblemCode } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { ReadConfig } from "./config/load.ts";
import type { Config } from "./config/schema.ts";

export interface ServeOptions {
  readonly config: Config;
  /** Folder that relative paths of the configuration count from. */
  readonly folder: string;
  /** Reads the configuration again, for what can be changed while the service runs. */
  readonly reload?: () => ReadConfig;
  /** Folder of the built console; without it `/` answers not-found. */
  readonly consoleFolder?: string;
  /** Whether instances are stopped with the service. Otherwise they outlive it and are taken back at the next start. */
  readonly stopInstances?: boolean;
  /** Names of risks that are taken knowingly: see `config/risks.ts`. */
  readonly acceptRisks?: readonly string[];
  /** Processes that the service runs in, 1 when left out: all but the first have the sockets of players' clients. */
  readonly workers?: number;
  readonly log?: Logger;
}

export interface RunningService {
  readonly host: string;
  readonly port: number;
  readonly url: string;
  readonly operatorToken: string;
  /** Why the service cannot go on, when the journal has failed. */
  readonly failure: () => Error | undefined;
  /** Reads the configuration again and takes what can be taken now; says in the log what came of it. */
  readonly reload: () => Promise<void>;
  /** Resolves once an operator has asked for the service to be stopped. Whoever started it stops it then. */
  readonly drained: Promise<void>;
  /** Stops cleanly: players are told, everything decided is written, a snapshot is kept. */
  readonly stop: () => Promise<void>;
}

/** A service that could not start, with a code from the table of problems. */
export class StartError extends Error {
  readonly code: ProblemCode;
  constructor(code: ProblemCode, message: string) {
    super(message);
    this.code = code;
  }
}

/** Where the service is between its start and its end. */
export type ServicePhase = "starting" | "ready" | "stopping";
