import { lookup } from "node:dns/promises";
import { isIP } from "node:net";
import type { Command, OfferedAddress } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, type Problem, problem } from "@yellow-harbor/protocol";
import { addressKind, isUsable, ownAddresses, sameAddress } from "@yellow-harbor/reach";
import type { Config } from "../config/schema.ts";
import { passDetail } from "../keys/pass-detail.ts";
import type { Tokens } from "../keys/tokens.ts";
import type { VerifiedRequest } from "./dispatch.ts";

type VerifiedCommand = Extract<Command, { do: "travel.offer" | "travel.board" | "room.tell-echo" }>;

interface LookParts {
  readonly tokens: Tokens;
  readonly ownPort: number;
  /** Where the player comes from. */
  readonly from: string;
  readonly localWorlds: Config["travel"]["localWorlds"];
  /** Whether the player is asked to run the world of a run: for nobody else a name is looked up. */
  readonly isAsked: (run: string) => boolean;
}

const NAME_PATIENCE_MS = 2_000;

/** The command of a request that names addresses or shows a pass, or why there is none. */
export async function commandOf(
  request: VerifiedRequest,
  player: PlayerId,
  parts: LookParts,
): Promise<VerifiedCommand | { readonly refused: Problem }> {
  if (request.ask === "room.tell-echo") return echoCommand(request.args, player, parts.from);
  if (request.ask === "travel.board") return boardCommand(request.args, player, parts.tokens);
  const { run, addresses: offered } = request.args;
  const addresses: OfferedAddress[] = [];
  // The harbor says why not.
  if (!parts.isAsked(run)) return { do: "travel.offer", player, args: { run, addresses } };
  for (const [n, { host = parts.from, port, transport, probe }] of offered.entries()) {
    const fault = await faultOf(host, port, parts);
    if (fault !== undefined) {
      const fields = [{ path: `args.addresses.${n}.host`, message: fault }];
      return { refused: problem("address-unusable", `${host}:${port} cannot be offered: ${fault}.`, { fields }) };
    }
    if (probe && transport !== "udp") {
      const fields = [{ path: `args.addresses.${n}.probe`, message: "expected none: it is for transport udp" }];
      return { refused: problem("request-invalid", "A probe is a datagram: it is for UDP.", { fields }) };
    }
    addresses.push({ host, port, ...(transport && { transport }), ...(probe && { probe }) });
  }
  return { do: "travel.offer", player, args: { run, addresses } };
}

/** Nobody sends those who look for a room to anybody else: the address is the one that the player comes from. */
function echoCommand(
  { port, transport }: PlayerArgs<"room.tell-echo">,
  player: PlayerId,
  from: string,
): VerifiedCommand | { readonly refused: Problem } {
  if (port === null) return { do: "room.tell-echo", player, echo: null };
  const host = isIP(from) === 6 ? `[${from}]` : from;
  const scheme = transport === "udp" ? "udp" : "ws";
  return { do: "room.tell-echo", player, echo: `${scheme}://${host}:${port}` };
}

async function boardCommand(
  { pass: shown, attempt }: PlayerArgs<"travel.board">,
  player: PlayerId,
  tokens: Tokens,
): Promise<VerifiedCommand | { readonly refused: Problem }> {
  const check = tokens.checkPass(shown, player);
  if (!check.ok) return { refused: problem(check.code, passDetail[check.code]) };
  const { ok: _, level = "", ...rest } = check;
  return { do: "travel.board", player, args: { shown: { ...rest, level }, attempt } };
}

/** What is wrong with an address that a member offers for its world, or undefined. */
async function faultOf(
  host: string,
  port: number,
  { ownPort, from, localWorlds }: LookParts,
): Promise<string | undefined> {
  const bare = host.replace(/^\[|\]$/g, "");
  const isName = isIP(bare) === 0;
  // Programs differ in how they read other ways of writing numbers, so none is taken.
  if (isName && /(^|\.)(0x[\da-f]*|\d+)\.?$/i.test(bare)) return "expected an IP address of four numbers, or a name";
  const found = isName ? await addressesOf(bare) : [bare];
  if (found.length === 0) return "expected a name that stands for an address; this one is not known";
  if (!found.every(isUsable)) return "expected the address of one computer";
  if (localWorlds === "own" && !found.every((address) => mayTell(address, from))) {
    return "expected an address that the others can reach; this one is of a local network, and you come from another";
  }
  const own = ownAddresses().map(({ address }) => address);
  const isOurs = (address: string) =>
    addressKind(address) === "loopback" || own.some((one) => sameAddress(one, address));
  return port === ownPort && found.some(isOurs)
    ? "expected a place of your own; this one leads back to the service"
    : undefined;
}

/** A local address says something to those alone who are in its network, and leads others into their own. */
function mayTell(address: string, from: string): boolean {
  const kind = addressKind(address);
  if (kind === "public") return true;
  const own = addressKind(from);
  return own === kind || (own === "loopback" && kind === "local-network");
}

/** None for a name that is not known, or not in time. */
async function addressesOf(name: string): Promise<string[]> {
  const late = new Promise<[]>((resolve) => setTimeout(resolve, NAME_PATIENCE_MS, []).unref());
  const found = await Promise.race([lookup(name, { all: true }).catch(() => []), late]);
  return found.map(({ address }) => address);
}
