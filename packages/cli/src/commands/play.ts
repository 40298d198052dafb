import { clearLine, cursorTo } from "node:readline";
import { createInterface, type Interface } from "node:readline/promises";
import { PlayerClient, type PlayerOptions, type PlayerState, ProblemError } from "@yellow-harbor/client";
import { addressText, type FriendView, type Missed } from "@yellow-harbor/protocol";
import { udpRoundTrips } from "@yellow-harbor/reach";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf } from "../context.ts";
import { explainError } from "../errors.ts";
import { firstLineOf } from "../first-line.ts";
import { io } from "../io.ts";
import type { Screen } from "../output/screen.ts";
import { duration } from "../output/time.ts";
import { invitationText, rememberMet } from "../play/actions/inviting.ts";
import { partyInvitationText, partyUpdateText } from "../play/actions/party-text.ts";
import { privateUpdateLines } from "../play/actions/private.ts";
import { friendText } from "../play/actions/relations.ts";
import { ticketText } from "../play/actions/search.ts";
import { actions, helpLines } from "../play/actions.ts";
import { updateText } from "../play/update-text.ts";

interface PlayOptions {
  readonly name: string;
  readonly build?: string;
  readonly lobby?: string;
  readonly accountFile?: string;
}

export function addPlay(program: Command): void {
  program
    .command("play")
    .description("be a player in the terminal: interactive, or commands line by line from a pipe")
    .option("-n, --name <name>", "guest name", "Ansel")
    .option("--build <build>", "build of the game client; the first that the service accepts when left out")
    .option("--lobby <name>", "lobby to be in")
    .option("--account-file <file>", "file with an account token of the game's back end in its first line")
    .addHelpText(
      "after",
      `\nLines:\n${helpLines()
        .map((line) => `  ${line}`)
        .join("\n")}\n\nFrom a pipe the first refusal ends it with that problem's exit code.`,
    )
    .action(async (options: PlayOptions, command: Command) => {
      const { screen, url, operator } = contextOf(command);
      const build = options.build ?? (await operator.about()).accepts[0] ?? "";
      const { name, lobby, accountFile } = options;
      const player = await PlayerClient.connect({
        url,
        name,
        build,
        ...(lobby !== undefined && { lobby }),
        ...(accountFile !== undefined && { account: firstLineOf(accountFile, "--account-file") }),
        onWaiting: tellWaiting(screen),
        udpEchoes: udpRoundTrips,
      });
      greet(player, screen);
      await (io().in.isTTY ? playInteractively(player, screen) : playScript(player, screen));
    });
}

/** Says where one is in the line, each time that this is another place. */
function tellWaiting(screen: Screen): NonNullable<PlayerOptions["onWaiting"]> {
  let before = "";
  return (waiting) => {
    if (screen.json) return screen.jsonLine({ waiting });
    const { position, of } = waiting;
    const now = `${position} of ${of}`;
    if (now !== before) screen.line(`${pc.yellow("*")} ${waitingText(waiting)}`);
    before = now;
  };
}

function waitingText({ position, of, estimateMs }: { position: number; of: number; estimateMs?: number }): string {
  const about = estimateMs === undefined ? "" : `, for about ${duration(estimateMs)}`;
  return `The harbor is full. You are number ${position} of ${of} in line${about}.`;
}

function greet(player: PlayerClient, screen: Screen): void {
  const { lobby } = player.state;
  if (screen.json) return screen.jsonLine({ welcome: { id: player.id, name: player.name, ...player.state } });
  const { players, counts } = lobby ?? {};
  // While it is crowded the lobby is told in numbers only.
  const others = players ? Object.keys(players).length - 1 : (counts?.players ?? 0);
  screen.line(
    `You are ${pc.bold(player.name)} (${player.id}) in ${lobby?.id}, with ${others} ${others === 1 ? "other" : "others"}; ${counts?.rooms} rooms.`,
  );
  if (io().in.isTTY) screen.note("say help for what you can do");
}

/** Update that would chat over everything else; who shows what it says. */
const QUIET = new Set(["counts-changed", "latency-measured"]);

function describeUpdates(player: PlayerClient, screen: Screen, line: (text: string) => void): void {
  rememberMet(player);
  let before: PlayerState = player.state;
  const tell = (text: string, value: object) => line(screen.json ? JSON.stringify(value) : `${pc.yellow("*")} ${text}`);
  player.on("change", ({ state, update }) => {
    if (update && (screen.json || !QUIET.has(update.kind))) tell(updateText(update, before, state), { update });
    before = state;
  });
  let shown = player.board.private;
  player.on("privateEntries", (entries) => {
    const lines = screen.json ? [""] : privateUpdateLines(player, shown, entries);
    shown = entries;
    for (const text of lines) tell(harmless(text), { privateEntries: entries });
  });
  player.on("invited", (invitation) => tell(harmless(invitationText(invitation)), { invited: invitation }));
  player.on("invitationEnded", ({ room, cause }) => {
    if (cause !== "joined") tell(`An invitation is over: ${cause}.`, { invitationEnded: { room, cause } });
  });
  player.on("partyInvited", (invitation) =>
    tell(harmless(partyInvitationText(invitation)), { partyInvited: invitation }),
  );
  let known = player.parties.own;
  player.on("party", ({ party, change, player: about, left }) => {
    // What one does oneself is answered already.
    const told =
      about === player.id ? undefined : partyUpdateText({ before: known, party, change, player: about, left });
    known = party;
    if (screen.json || told !== undefined) tell(harmless(told ?? ""), { party: { change, party } });
  });
  player.on("intoRoom", ({ room }) => {
    const size = Object.keys(room.members).length;
    tell(`You are in room ${room.code} now, with ${size - 1} ${size === 2 ? "other" : "others"}.`, {
      intoRoom: { room: room.id },
    });
  });
  player.on("intoLobby", ({ lobby }) =>
    tell(`An operator has moved you to the lobby ${lobby.id}.`, { intoLobby: { lobby: lobby.id } }),
  );
  player.on("outOfParty", ({ cause, why }) => {
    const because = why === undefined ? "" : `: ${why}`;
    tell(
      cause === "kicked" ? harmless(`The leader removed you from the party${because}.`) : "You have left the party.",
      {
        outOfParty: { cause, why },
      },
    );
  });
  player.on("pass", (pass) => tell(`Your pass for ${pass.level} is here: ${addressText(pass.address)}.`, { pass }));
  player.on("ticket", (ticket) => tell(ticketText(ticket), { ticket }));
  player.on("ticketEnded", ({ cause, detail }) =>
    tell(cause === "matched" ? detail : `The search is over: ${detail}`, { ticketEnded: { cause, detail } }),
  );
  const outOf = (cause: OutOfRoomCause, by = "operator") =>
    ({
      kicked: `The ${by} kicked you from the room`,
      closed: "The room was closed",
      late: "You came too late to travel with the room",
      idle: "You did nothing in the room for too long",
    })[cause];
  player.on("missed", (missed) => {
    const because = "why" in missed && missed.why ? `: ${missed.why}` : "";
    const what =
      missed.kind === "ticket-ended"
        ? `Your search ended: ${missed.detail}`
        : `${missed.kind === "out-of-room" ? outOf(missed.cause, missed.by) : "You were removed from the party"}${because}.`;
    tell(`While you were away: ${harmless(what)}`, { missed });
  });
  player.on("outOfRoom", ({ cause, by, why, lobby }) => {
    const what = outOf(cause, by);
    tell(`${what}${why ? `: ${why}` : ""}. You are in ${lobby.id} again.`, { outOfRoom: { cause, by, why } });
  });
  player.on("relayed", ({ from, body }) => {
    const name = player.state.room?.members[from]?.name ?? from;
    const said = (body as { text?: unknown } | null)?.text;
    tell(`${name}: ${harmless(typeof said === "string" ? said : JSON.stringify(body))}`, { relayed: { from, body } });
  });
  player.on("relayedBytes", ({ from, body }) => {
    const name = player.state.room?.members[from]?.name ?? from;
    tell(`${name} passes ${body.length} bytes to the room.`, { relayedBytes: { from, bytes: body.length } });
  });
  player.on("chat", ({ lobby, from, name, text }) =>
    tell(`${name}: ${harmless(text)}`, { chat: { lobby, from, name, text } }),
  );
  player.on("message", ({ from, name, text }) =>
    tell(`${name}, to you alone: ${harmless(text)}`, { message: { from, name, text } }),
  );
  player.on("notice", ({ to, text }) => tell(`An operator, to the ${to}: ${harmless(text)}`, { notice: { to, text } }));
  player.on("directory", ({ rooms, total }) => {
    if (player.browser.isOn) return;
    const codes = rooms.map(({ code, members, capacity, phase }) => `${code} ${members}/${capacity} ${phase}`);
    tell(`The directory: ${codes.join(", ") || "no rooms"}.`, { directory: { rooms, total } });
  });
  let friends = new Map<string, FriendView>();
  player.on("friends", (all) => {
    const now = new Map(all.map((friend) => [friend.account, friend] as const));
    for (const [account, friend] of now) {
      const former = friends.get(account);
      const text = friendText(friend);
      if (former === undefined || friendText(former) !== text) tell(harmless(text), { friend });
    }
    for (const [account, { name }] of friends)
      if (!now.has(account))
        tell(harmless(`${name} (${account}) is not to be seen any more.`), { friendGone: account });
    friends = now;
  });
  player.on("lost", ({ problem, attempt, inMs }) =>
    tell(`Connection lost (${problem.title}); attempt ${attempt} in ${(inMs / 1000).toFixed(1)} s.`, {
      lost: { problem, attempt, inMs },
    }),
  );
  player.on("resumed", () => tell("Connected again; your place was kept.", { resumed: true }));
}

type OutOfRoomCause = Extract<Missed, { kind: "out-of-room" }>["cause"];

/** Somebody else wrote this: nothing in it may steer the terminal. */
const harmless = (text: string) => text.replace(/[\p{Cc}\p{Cf}]/gu, "\u00b7");

/** Carries out one line. Returns whether to go on. */
async function carryOut(player: PlayerClient, line: string, screen: Screen): Promise<boolean> {
  const [word = "", ...words] = line.trim().split(/\s+/);
  if (word === "" || word.startsWith("#")) return true;
  if (word === "help") {
    for (const text of helpLines()) screen.line(text);
    return true;
  }
  const action = Object.hasOwn(actions, word) ? actions[word] : undefined;
  if (action === undefined) throw ProblemError.of("usage", `There is no ${word}; type help for the list.`);
  const done = await action.run(player, words);
  if (screen.json) screen.jsonLine({ did: word, result: done.result });
  else for (const text of done.text) screen.line(text);
  return done.ends !== true;
}

async function playScript(player: PlayerClient, screen: Screen): Promise<void> {
  const input = createInterface({ input: io().in });
  describeUpdates(player, screen, screen.line);
  try {
    for await (const line of input) if (!(await carryOut(player, line, screen))) return;
    await player.leave();
  } catch (error) {
    player.drop();
    throw error;
  } finally {
    input.close();
  }
}

async function playInteractively(player: PlayerClient, screen: Screen): Promise<void> {
  const input = createInterface({ input: io().in, output: io().out, prompt: "> " });
  describeUpdates(player, screen, (text) => lineAbovePrompt(input, screen, text));
  player.on("ended", ({ problem }) => {
    if (problem) screen.line(`It is over: ${problem.detail}`);
    input.close();
  });
  input.on("SIGINT", () => void player.leave().catch(() => input.close()));
  input.prompt();
  for await (const line of input) {
    try {
      if (!(await carryOut(player, line, screen))) return input.close();
    } catch (error) {
      // A refusal is part of the play; the next line may do better.
      explainError(error, screen.json);
    }
    input.prompt();
  }
}

/** Prints a line where the prompt is, and the prompt again below it with what was typed so far. */
function lineAbovePrompt(input: Interface, screen: Screen, text: string): void {
  cursorTo(io().out, 0);
  clearLine(io().out, 0);
  screen.line(text);
  input.prompt(true);
}
