import { execFile } from "node:child_process";
import { resolve } from "node:path";
import type { FleetEffect } from "@yellow-harbor/core";
import type { ConfigName } from "@yellow-harbor/protocol";
import type { Logger } from "pino";
import type { Config } from "../config/schema.ts";
import type { Tokens } from "../keys/tokens.ts";

/** A command of a fleet that has not ended by then is given up. */
const COMMAND_MS = 600_000;
const TOKEN_DAYS = 1;
/** So much of what it prints is kept for its reason. */
const PRINTED_MAX = 65_536;
const SHOWN = 300;

export interface FleetParts {
  readonly config: () => Pick<Config, "machineGroups">;
  readonly tokens: Tokens;
  /** Folder that relative commands count from. */
  readonly workingFolder: string;
  readonly serviceUrl: () => string;
  readonly log: Logger;
}

/**
 * Orders machines and gives them back by the commands of their group. Each may be run again for the same name, as after a
 * restart: whoever writes one has it do nothing then.
 */
export class FleetRunner {
  readonly #parts: FleetParts;
  readonly #abort = new AbortController();

  constructor(parts: FleetParts) {
    this.#parts = parts;
  }

  /** Why it could not be carried out, undefined when it was. */
  async carryOut({ effect, machine, group }: FleetEffect): Promise<string | undefined> {
    const { config, tokens, workingFolder, serviceUrl, log } = this.#parts;
    const alike = config().machineGroups[group];
    if (alike?.fleet == null) return `group ${group} has no fleet any more`;
    const [command = "", ...args] = effect === "order-machine" ? alike.fleet.start : alike.fleet.stop;
    const token = await tokens.signGroupToken(group, TOKEN_DAYS);
    const { PATH, HOME, LANG } = process.env;
    const environment = {
      PATH,
      HOME,
      LANG,
      YH_MACHINE: machine,
      YH_MACHINE_NAME: nameIn(group, machine),
      YH_MACHINE_GROUP: group,
      YH_MACHINE_REGION: alike.region ?? "",
      YH_AGENT_TOKEN: token,
      YH_URL: serviceUrl(),
    };
    const why = await this.#run(command.includes("/") ? resolve(workingFolder, command) : command, args, environment);
    if (this.#abort.signal.aborted) return undefined;
    if (why === undefined)
      log.info({ machine, group }, effect === "order-machine" ? "a machine was ordered" : "a machine was given back");
    else
      log.warn(
        { machine, group, why },
        "a command of a fleet has failed; see that it runs by hand with the same environment",
      );
    return why;
  }

  close(): void {
    this.#abort.abort();
  }

  #run(command: string, args: readonly string[], env: NodeJS.ProcessEnv): Promise<string | undefined> {
    const options = {
      cwd: this.#parts.workingFolder,
      env,
      timeout: COMMAND_MS,
      maxBuffer: PRINTED_MAX,
      signal: this.#abort.signal,
    };
    return new Promise((done) => {
      execFile(command, args, options, (error, _out, printed) => {
        if (error === null) return done(undefined);
        const last = printed.trim().split("\n").at(-1) ?? "";
        done(`${command}: ${(last === "" ? error.message : last).slice(0, SHOWN)}`);
      });
    });
  }
}

/** The name that a machine gives itself in its group. */
const nameIn = (group: ConfigName, machine: ConfigName): string => machine.slice(group.length + 1);
