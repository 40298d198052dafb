import type { Command, Identity, WelcomeState } from "@yellow-harbor/core";
import { DEVICE_ISSUER, type Hello, type Problem, problem, type Welcome, WIRE_VERSION } from "@yellow-harbor/protocol";
import { networkOf } from "@yellow-harbor/reach";
import type { AccountTokens } from "../accounts/account-tokens.ts";
import type { Config } from "../config/schema.ts";
import type { Tokens } from "../keys/tokens.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";
import type { TextFilter } from "./text-filter.ts";

export type Greeted = { readonly welcome: Welcome } | { readonly refused: Problem };

export interface GreetingParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly accounts: Pick<AccountTokens, "check">;
  readonly players: Config["players"];
  readonly textFilter?: TextFilter | undefined;
  readonly connection: number;
  /** Address it comes from. */
  readonly from: string;
}

/** The command of a hello: of a new guest, an account of the game, or a player who comes back with the token of an earlier welcome. */
export async function greetingOf(
  hello: Hello,
  { runtime, tokens, accounts, players, textFilter, connection, from }: GreetingParts,
): Promise<GreetingCommand | { readonly refused: Problem }> {
  const unfit = misfit(hello, runtime.rules.players.builds);
  if (unfit) return { refused: unfit };
  const { guestBans } = players.accounts;
  const command = await commandFor(hello, { tokens, accounts, connection, from, guestBans });
  return "refused" in command ? command : withNameLookedAt(command, textFilter);
}

/**
 * Has the harbor decide it. `done` is called in the order of the outbox, so that all update after the welcome's state is
 * spoken after `done`.
 */
export function enter(
  command: GreetingCommand,
  { runtime, tokens, players }: Pick<GreetingParts, "runtime" | "tokens" | "players">,
  done: (greeted: Greeted) => void,
): void {
  let welcome: Welcome | undefined;
  runtime.submit(
    command,
    (settled) => {
      if ("refused" in settled) return done(settled);
      if (welcome) done({ welcome });
    },
    async (settled) => {
      if ("refused" in settled) return;
      welcome = await welcomeFor(settled.reply, tokens, {
        harbor: runtime.rules.harbor,
        heartbeatEveryMs: players.heartbeatEveryMs,
        silenceMs: players.silenceMs,
        resumeDays: players.resumeDays,
      });
    },
  );
}

function misfit(hello: Hello, builds: readonly string[]): Problem | undefined {
  if (hello.wire !== WIRE_VERSION) {
    const detail = `Wire version ${hello.wire} is not spoken here; this service speaks ${WIRE_VERSION}. Update the client.`;
    return problem("wire-unsupported", detail, { accepted: [String(WIRE_VERSION)] });
  }
  // Also for a player who comes back: the game may have been updated meanwhile.
  if (!builds.includes(hello.build)) {
    const detail = `Build ${hello.build} is not accepted here; update the game to ${builds.join(" or ")}.`;
    return problem("build-unsupported", detail, { accepted: [...builds] });
  }
  return undefined;
}

/** The same with the name as the filter lets it through. What the game's own back end vouches for is looked at like any other. */
async function withNameLookedAt(
  command: GreetingCommand,
  filter: TextFilter | undefined,
): Promise<GreetingCommand | { readonly refused: Problem }> {
  if (command.do !== "player.connect" || command.name === "" || !filter?.isFor("player-name")) return command;
  const { name: text, identity } = command;
  const looked = await filter.lookAt({ kind: "player-name", text, account: identity?.account });
  return "refused" in looked ? looked : { ...command, name: looked.text };
}

type CommandParts = Pick<GreetingParts, "tokens" | "accounts" | "connection" | "from"> &
  Pick<Config["players"]["accounts"], "guestBans">;

async function commandFor(
  { name = "", build, lobby, resume, heard, account, device }: Hello,
  { tokens, accounts, connection, from, guestBans }: CommandParts,
): Promise<GreetingCommand | { readonly refused: Problem }> {
  const vouched = account === undefined ? undefined : await accounts.check(account);
  if (vouched && "refused" in vouched) return vouched;
  const identity = vouched?.identity ?? deviceOf(device, tokens);
  const who = {
    identity,
    from,
    ...(vouched?.token && { token: vouched.token }),
    ...(vouched?.relations && { relations: vouched.relations }),
  };
  if (resume === undefined) {
    // An account tells people apart; of a guest nothing does but where it comes from.
    const isKnown = vouched !== undefined || guestBans === "player";
    const origin = isKnown ? undefined : tokens.pseudonym("network", networkOf(from));
    return { do: "player.connect", name: vouched?.name ?? name, build, lobby, connection, origin, ...who };
  }
  const shown = tokens.checkResume(resume);
  if (shown !== undefined) {
    const { player, number } = shown;
    // A guest's device was told with its first hello.
    return { do: "player.resume", player, connection, heard, shown: number, ...who, identity: vouched?.identity };
  }
  const detail = "The resume token is not one of this harbor's, or has ended; leave it out and say hello with a name.";
  return { refused: problem("token-invalid", detail) };
}
export type GreetingCommand = Extract<Command, { do: "player.connect" | "player.resume" }>;

/** A guest with a device key is the same player next time, and no more than a guest. */
const deviceOf = (device: string | undefined, tokens: Tokens): Identity | undefined =>
  device === undefined
    ? undefined
    : { account: `${DEVICE_ISSUER}:${tokens.pseudonym("device", device)}`, roles: [], vouched: {} };

interface WelcomeParts {
  readonly harbor: string;
  readonly heartbeatEveryMs: number;
  readonly silenceMs: number;
  readonly resumeDays: number;
}

async function welcomeFor(
  state: WelcomeState,
  tokens: Tokens,
  { resumeDays, ...parts }: WelcomeParts,
): Promise<Welcome> {
  const { player, resumed, resumeNumber, lobby, room, pass, ticket, missed } = state;
  const { invitations, party, partyInvitations, privateEntries } = state;
  const [resume, signed] = await Promise.all([
    tokens.signResume(player.id, resumeNumber, resumeDays),
    pass && tokens.signPass(pass),
  ]);
  return {
    frame: "welcome",
    wire: WIRE_VERSION,
    player,
    resumed,
    resume,
    ...parts,
    ...(lobby && { lobby }),
    ...(room && { room }),
    ...(signed && { pass: signed }),
    ...(ticket && { ticket }),
    ...(invitations && { invitations: [...invitations] }),
    ...(party && { party }),
    ...(partyInvitations && { partyInvitations: [...partyInvitations] }),
    ...(privateEntries && { privateEntries: [...privateEntries] }),
    ...(missed && resumed && { missed: [...missed] }),
  };
}
