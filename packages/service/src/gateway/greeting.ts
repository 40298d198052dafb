import type { Command, WelcomeState } from "@yellow-harbor/core";
import { type Hello, type Problem, problem, type Welcome, WIRE_VERSION } from "@yellow-harbor/protocol";
import type { Config } from "../config/schema.ts";
import type { Tokens } from "../keys/tokens.ts";
import type { HarborRuntime } from "../runtime/runtime.ts";

export type Greeted = { readonly welcome: Welcome } | { readonly refused: Problem };

export interface GreetingParts {
  readonly runtime: HarborRuntime;
  readonly tokens: Tokens;
  readonly players: Config["players"];
  readonly connection: number;
}

/**
 * Decides a hello: a new guest, or a player who comes back with the token of an earlier welcome. `done` is called in
 * the order of the outbox, so that all update after the welcome's state is spoken after `done`.
 */
export async function greet(
  hello: Hello,
  { runtime, tokens, players, connection }: GreetingParts,
  done: (greeted: Greeted) => void,
): Promise<void> {
  const unfit = misfit(hello, runtime.rules.players.builds);
  if (unfit) return done({ refused: unfit });
  const command = await commandFor(hello, tokens, connection);
  if (command === undefined) {
    const detail = "The resume token is not one of this harbor's; leave it out and say hello with a name.";
    return done({ refused: problem("token-invalid", detail) });
  }
  let welcome: Welcome | undefined;
  runtime.submit(
    command,
    (settled) => {
      if ("refused" in settled) return done(settled);
      if (welcome) done({ welcome });
    },
    async (settled) => {
      if ("refused" in settled) return;
      const resumed = command.do === "player.resume";
      welcome = await welcomeFor(settled.reply, {
        resumed,
        tokens,
        harbor: runtime.rules.harbor,
        heartbeatEveryMs: players.heartbeatEveryMs,
        silenceMs: players.silenceMs,
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

async function commandFor(hello: Hello, tokens: Tokens, connection: number): Promise<GreetingCommand | undefined> {
  const { name = "", build, lobby, resume, heard } = hello;
  if (resume === undefined) return { do: "player.connect", name, build, lobby, connection };
  const player = await tokens.checkResume(resume);
  return player === undefined ? undefined : { do: "player.resume", player, connection, heard };
}
type GreetingCommand = Extract<Command, { do: "player.connect" | "player.resume" }>;

interface WelcomeParts {
  readonly resumed: boolean;
  readonly harbor: string;
  readonly tokens: Tokens;
  readonly heartbeatEveryMs: number;
  readonly silenceMs: number;
}

async function welcomeFor(state: WelcomeState, { tokens, ...parts }: WelcomeParts): Promise<Welcome> {
  const { player, lobby, room, pass, ticket, missed } = state;
  const [resume, signed] = await Promise.all([tokens.signResume(player.id), pass && tokens.signPass(pass)]);
  return {
    frame: "welcome",
    wire: WIRE_VERSION,
    player,
    resume,
    ...parts,
    ...(lobby && { lobby }),
    ...(room && { room }),
    ...(signed && { pass: signed }),
    ...(ticket && { ticket }),
    ...(missed && parts.resumed && { missed: [...missed] }),
  };
}
