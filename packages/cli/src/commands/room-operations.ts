import { ProblemError } from "@yellow-harbor/client";
import type {
  OpenByOperator,
  PrivateEntryList,
  ReservationList,
  ReservedFor,
  SettingValue,
} from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { firstLineOf } from "../first-line.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";
import { memberId, playerId } from "../who.ts";

const ROOM = ["<room>", "code or id"] as const;
const PLAYER = ["<player>", "name or id; yh player list shows them"] as const;
const MINUTE_MS = 60_000;

interface Wish {
  readonly kind?: string;
  readonly level?: string;
  readonly name?: string;
  readonly code?: string;
  readonly capacity?: number;
  readonly visibility?: OpenByOperator["visibility"];
  readonly passwordFile?: string;
  readonly set?: readonly string[];
  readonly variant?: string;
}

const VISIBILITIES = ["listed", "code-only", "locked"] as const;

/** What a room is to be like, for one to open and for one to change. */
const wishOptions = (command: Command): Command =>
  command
    .option("--level <level>", "level it is to play, where its host picks levels")
    .option("--name <name>", "its name")
    .option("--capacity <number>", "its places", wholeNumber("--capacity", 1, 64))
    .option("--visibility <visibility>", VISIBILITIES.join(", "), visibilityOf)
    .option("--password-file <file>", "file with its password in the first line; an empty line for none")
    .option("--variant <variant>", "variant of its kind, beside which --set still counts")
    .option("--set <key=value...>", "free settings; JSON values are taken as such, null removes one");

/** What the game's own back end does to rooms, by hand. */
export function addRoomOperations(room: Command): void {
  wishOptions(
    room
      .command("open")
      .description("open a room with nobody in it; the first to join is its host")
      .argument("<lobby>", "lobby; yh status lists them"),
  )
    .option("--kind <kind>", "room kind; the lobby's first one when left out")
    .option("--region <region>", "region it plays in: yh lobby regions lists them; any when left out")
    .option("--code <code>", "code it is to have; drawn when left out")
    .option("--build <build>", "build of the clients that may join; the first to join gives it when left out")
    .option("--keep <minutes>", "how long it stays although nobody comes", wholeNumber("--keep", 1, 1_440), 10)
    .option("--request <key>", "a key of your own for this request: a repeat with it opens no other room")
    .action(async (lobby: string, options: Wish & Opening, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { keep, request, build, kind, code, region } = options;
      const { password, ...rest } = wanted(options);
      const asked = { ...rest, ...given({ kind, code, build, region, password: password ?? undefined }) };
      const wish = { lobby, ...asked, keepMs: keep * MINUTE_MS };
      const opened = await operator.openRoom(wish, given({ key: request }));
      screen.show(opened, (one) => [
        `Room ${pc.bold(one.room.code)} is open; it waits ${keep} min for somebody to join.`,
      ]);
      if (!screen.json) screen.note(`next: yh room reserve ${opened.room.code} ACCOUNT`);
    });
  wishOptions(
    room
      .command("change")
      .description("change a room")
      .argument(...ROOM),
  ).action(async (id: string, options: Wish, command: Command) => {
    const { screen, operator } = contextOf(command);
    screen.show(await operator.changeRoom(id, wanted(options)), () => [`Room ${id} is changed.`]);
  });
  room
    .command("put")
    .description("bring a player into a room, out of the one it is in")
    .argument(...ROOM)
    .argument(...PLAYER)
    .option("--side <side>", "side it is to stand on")
    .action(async (id: string, player: string, { side }: { side?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await playerId(operator, player);
      screen.show(await operator.putInRoom(id, who, given({ side })), () => [`${player} is in room ${id}.`]);
    });
  room
    .command("ready")
    .description("say for a member that it is ready")
    .argument(...ROOM)
    .argument(...PLAYER)
    .option("--not", "that it is not", false)
    .action(async (id: string, player: string, { not }: { not: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const who = await memberId(operator, id, player);
      const text = `${player} is ${not ? "not ready" : "ready"}.`;
      screen.show(await operator.readyMember(id, who, !not), () => [text]);
    });
  room
    .command("start")
    .description("start a room")
    .argument(...ROOM)
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.startRoom(id), () => [`Room ${id} starts.`]);
    });
  room
    .command("end")
    .description("end what a room is doing: a countdown stops, a run is void, results are put away")
    .argument(...ROOM)
    .option("--reason <text>", "told to the members")
    .action(async (id: string, { reason }: { reason?: string }, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.endRun(id, given({ reason })), () => [`Room ${id} gathers again.`]);
    });
  addReservations(room);
}

interface Opening {
  readonly region?: string;
  readonly keep: number;
  readonly request?: string;
  readonly build?: string;
}

const WHO = ["<who>", "account (ISSUER:ACCOUNT), or name or id of a player who is here"] as const;

function addReservations(room: Command): void {
  room
    .command("reserve")
    .description("keep a place for somebody, who may join although the room is full, locked or playing")
    .argument(...ROOM)
    .argument(...WHO)
    .option("--name <name>", "whom members see it kept for")
    .option("--side <side>", "side it is on")
    .option("--minutes <number>", "how long it is kept", wholeNumber("--minutes", 1, 1_440), 1)
    .action(async (id: string, who: string, options: Reserving, command: Command) => {
      const { screen, operator } = contextOf(command);
      const { name, side, minutes } = options;
      const place = { for: await reservedFor(who, (named) => playerId(operator, named)), ...given({ name, side }) };
      const done = await operator.reservePlace(id, { ...place, forMs: minutes * MINUTE_MS });
      screen.show(done, () => [`A place of room ${id} is kept for ${who} for ${minutes} min.`]);
    });
  room
    .command("reservations")
    .description("list the places that a room keeps for somebody")
    .argument(...ROOM)
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const list = await operator.reservations(id);
      screen.show(list, ({ reservations }) => reservationLines(reservations, screen));
    });
  room
    .command("private")
    .description("list what only some members of a room see")
    .argument(...ROOM)
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const [list, { members }] = await Promise.all([operator.privateEntries(id), operator.room(id)]);
      const name = (player: string) => members[player]?.name ?? player;
      screen.show(list, ({ entries }) => privateLines(entries, name, screen.width));
    });
  room
    .command("cancel-reservation")
    .description("keep a place for somebody no longer")
    .argument(...ROOM)
    .argument(...WHO)
    .action(async (id: string, who: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const whom = await reservedFor(who, (named) => playerId(operator, named));
      const done = await operator.cancelReservation(id, whom);
      screen.show(done, () => [`No place of room ${id} is kept for ${who} any more.`]);
    });
}

interface Reserving {
  readonly name?: string;
  readonly side?: string;
  readonly minutes: number;
}

function reservationLines(
  reservations: ReservationList["reservations"],
  { width, absolute }: { readonly width: number; readonly absolute: boolean },
): string[] {
  if (reservations.length === 0) return ["No places are kept. yh room reserve keeps one."];
  const now = Date.now();
  return table(
    reservations,
    [
      { heading: "FOR", value: ({ for: who }) => ("account" in who ? who.account : who.player) },
      { heading: "NAME", value: ({ name }) => name ?? "-" },
      { heading: "SIDE", value: ({ side }) => side ?? "-" },
      { heading: "ENDS", value: ({ untilMs }) => when(untilMs, now, absolute) },
    ],
    width,
  );
}

function privateLines(entries: PrivateEntryList["entries"], name: (player: string) => string, width: number): string[] {
  if (entries.length === 0) return ["No member keeps anything that only some see."];
  return table(
    entries,
    [
      { heading: "OWNER", value: ({ owner }) => name(owner) },
      { heading: "KEY", value: ({ key }) => key },
      { heading: "FOR", value: ({ to }) => ("side" in to ? `side ${to.side}` : name(to.player)) },
      { heading: "VALUE", value: ({ value }) => JSON.stringify(value) },
    ],
    width,
  );
}

/** An account has a colon, which no id has; whatever else is said names a player. */
const reservedFor = async (who: string, find: (named: string) => Promise<string>): Promise<ReservedFor> =>
  who.includes(":") ? { account: who } : { player: await find(who) };

function wanted({ level, name, capacity, visibility, passwordFile, variant, set = [] }: Wish) {
  const settings = Object.fromEntries(set.map(settingOf)) as Record<string, SettingValue>;
  return given({
    level,
    name,
    capacity,
    visibility,
    ...passwordIn(passwordFile),
    variant,
    settings: set.length > 0 ? settings : undefined,
  });
}

/** Nothing, or one that is taken away, where the file has none. */
function passwordIn(file: string | undefined): { readonly password?: string | null } {
  if (file === undefined) return {};
  const password = firstLineOf(file, "--password-file");
  return { password: password === "" ? null : password };
}

function settingOf(text: string): [string, SettingValue | null] {
  const [, key, value] = /^([^=]+)=(.*)$/s.exec(text) ?? [];
  if (key === undefined || value === undefined) {
    throw ProblemError.of("usage", `--set ${text} is no setting; give KEY=VALUE, such as tide=spring.`);
  }
  try {
    return [key, JSON.parse(value) as SettingValue];
  } catch {
    return [key, value];
  }
}

function visibilityOf(text: string): OpenByOperator["visibility"] {
  const known = VISIBILITIES.find((one) => one === text);
  if (known !== undefined) return known;
  throw ProblemError.of("usage", `--visibility ${text} is none; give ${VISIBILITIES.join(", ")}.`);
}

type Given<T> = { readonly [K in keyof T]?: Exclude<T[K], undefined> };

/** Without what was not said. */
const given = <T extends object>(values: T): Given<T> =>
  Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined)) as Given<T>;
