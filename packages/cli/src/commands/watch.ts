import { mergePatch, ProblemError } from "@yellow-harbor/client";
import type { HarborView, InstanceView, WatchMessage } from "@yellow-harbor/protocol";
import { type Command, Option } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import type { Screen } from "../output/screen.ts";

interface WatchOptions {
  readonly room?: string;
  readonly lobby?: string;
  readonly count?: number;
  readonly seconds?: number;
}

type WatchedEvent = Extract<WatchMessage, { message: "happened" }>;

export function addWatch(program: Command): void {
  program
    .command("watch")
    .description("print events as they happen: all, of one room, or of one lobby")
    .addOption(new Option("--room <room>", "only this room, by code or id").conflicts("lobby"))
    .option("--lobby <name>", "only this lobby and its rooms")
    .option("--count <number>", "end after this many lines", wholeNumber("--count", 1, 1_000_000))
    .option("--seconds <number>", "end after so long", wholeNumber("--seconds", 1, 86_400))
    .addHelpText("after", "\nWith --json each line is one JSON object: atMs, kind, text, patch.")
    .action(async (options: WatchOptions, command: Command) => {
      const { screen, operator } = contextOf(command);
      const ends = options.seconds === undefined ? undefined : AbortSignal.timeout(options.seconds * 1_000);
      // An unknown room is said at once, not waited for.
      const room = options.room === undefined ? undefined : (await operator.room(options.room)).id;
      try {
        await follow(operator.watch(ends), { ...options, room }, screen);
      } catch (error) {
        if (!ends?.aborted) throw error;
      }
    });
}

interface Wanted {
  readonly room: string | undefined;
  readonly lobby?: string | undefined;
  readonly count?: number | undefined;
}

async function follow(messages: AsyncIterable<WatchMessage>, wanted: Wanted, screen: Screen): Promise<void> {
  let state: HarborView | undefined;
  let shown = 0;
  for await (const message of messages) {
    if (message.message === "state") {
      state = message.state;
      if (wanted.lobby !== undefined) checkLobby(wanted.lobby, state);
      screen.note(`watching ${describe(wanted, state)}; Ctrl-C ends it`);
      continue;
    }
    const before = state as HarborView;
    state = mergePatch(before, message.patch);
    if (!concerns(message, wanted, before, state) || !print(message, screen)) continue;
    shown += 1;
    if (shown === wanted.count) return;
    if (wanted.room !== undefined && state.rooms[wanted.room] === undefined) {
      return screen.note("the room is closed; nothing more will happen in it");
    }
  }
}

function checkLobby(lobby: string, { lobbies }: HarborView): void {
  if (Object.hasOwn(lobbies, lobby)) return;
  throw ProblemError.of(
    "lobby-unknown",
    `There is no lobby ${lobby}; the lobbies are ${Object.keys(lobbies).join(", ")}.`,
  );
}

function describe({ room, lobby }: Wanted, { rooms }: HarborView): string {
  if (room !== undefined) return `room ${rooms[room]?.code ?? room}`;
  return lobby === undefined ? "everything" : `lobby ${lobby} and its rooms`;
}

/** Whether something happened in what is watched: the patch names what it changes. */
function concerns({ patch }: WatchedEvent, { room, lobby }: Wanted, before: HarborView, after: HarborView): boolean {
  const changed = patch as Partial<Record<"rooms" | "lobbies" | "instances", Record<string, unknown>>>;
  const rooms = Object.keys(changed.rooms ?? {});
  const lobbies = Object.keys(changed.lobbies ?? {});
  if (room !== undefined) {
    const instances = Object.keys(changed.instances ?? {});
    const isOurs = (id: string) => holds(after.instances[id], room) || holds(before.instances[id], room);
    return rooms.includes(room) || instances.some(isOurs);
  }
  if (lobby === undefined) return true;
  const lobbyOf = (id: string) => (after.rooms[id] ?? before.rooms[id])?.lobby;
  return lobbies.includes(lobby) || rooms.some((id) => lobbyOf(id) === lobby);
}

/** Prints a line, unless there are no words for it. */
function print({ atMs, kind, text, patch }: WatchedEvent, screen: Screen): boolean {
  if (screen.json) {
    screen.jsonLine({ atMs, kind, ...(text !== undefined && { text }), patch });
    return true;
  }
  if (text === undefined) return false;
  const at = new Date(atMs).toISOString();
  screen.line(`${pc.dim(screen.absolute ? at : at.slice(11, 19))}  ${text}`);
  return true;
}

const holds = (instance: InstanceView | undefined, room: string) =>
  instance?.rooms.some((one) => one.room === room) ?? false;
