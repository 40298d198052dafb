import { OperatorClient, ProblemError } from "@yellow-harbor/client";
import { findKey, isLoopback } from "@yellow-harbor/reach";
import type { Command } from "commander";
import { DEFAULT_URL } from "./default-url.ts";
import { type Screen, screenFor } from "./output/screen.ts";
import { profileNamed, readProfiles } from "./profiles/profiles.ts";
import { sendHttp } from "./send-http.ts";

export interface GlobalOptions {
  readonly url: string;
  readonly token?: string;
  readonly profile?: string;
  readonly json?: boolean;
  readonly absolute?: boolean;
}

/** What every command has: where to print, whom to ask. */
export interface Context {
  readonly screen: Screen;
  readonly url: string;
  readonly operator: OperatorClient;
}

export function contextOf(command: Command): Context {
  const options = command.optsWithGlobals<GlobalOptions>();
  const { url, token } = whereTo(command, options);
  if (!URL.canParse(url) || !/^https?:$/.test(new URL(url).protocol)) {
    throw ProblemError.of("usage", `--url ${url} is not an address; give one such as ${DEFAULT_URL}.`);
  }
  return { screen: screenFor(options), url, operator: operatorAt(url, tokenFor(url, token)) };
}

/** Address and key: of flags, else of the profile that was named, else of the environment, else of the profile in use. */
function whereTo(
  command: Command,
  { url, token, profile }: GlobalOptions,
): { url: string; token?: string | undefined } {
  const source = (name: string) => command.getOptionValueSourceWithGlobals(name);
  const isNamed = profile !== undefined && source("profile") === "cli";
  const name = isNamed || (profile !== undefined && source("url") === "default") ? profile : currentOf(source("url"));
  if (name === undefined) return { url, token };
  const own = profileNamed(name);
  // A key is for its own service: with an address of another one it is not sent.
  if (source("url") === "cli") return { url, token };
  return { url: own.url, token: source("token") === "cli" ? token : (own.key ?? token) };
}

const currentOf = (source: string | undefined) => (source === "default" ? readProfiles().current : undefined);

/** A client of the service at an address. */
export const operatorAt = (url: string, key: { token?: string } = {}): OperatorClient =>
  new OperatorClient({ url, send: sendHttp, ...key });

/** The key that was given, else that of the service on this computer, when this user may read it. */
function tokenFor(url: string, given: string | undefined): { token?: string } {
  if (given !== undefined) return { token: given };
  const { hostname, port, protocol } = new URL(url);
  if (!isLoopback(hostname.replace(/^\[|\]$/g, ""))) return {};
  const found = findKey(Number(port || (protocol === "https:" ? 443 : 80)));
  if (found === undefined) return {};
  if ("key" in found) return { token: found.key };
  const detail = `The key of the service at ${url} is in ${found.unreadable}, which you may not read; run yh as the service's user, or give a key with --token or YH_TOKEN.`;
  throw ProblemError.of("operator-token-needed", detail);
}

/** A whole number from an option, in a range, or a refusal that names the option and the value. */
export function wholeNumber(option: string, min: number, max: number): (typed: string) => number {
  return (typed) => {
    const value = Number(typed);
    if (typed.trim() === "" || !Number.isInteger(value) || value < min || value > max) {
      throw ProblemError.of("usage", `${option} ${typed} is not a whole number from ${min} to ${max}.`);
    }
    return value;
  };
}
