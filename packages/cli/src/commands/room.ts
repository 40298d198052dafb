import type { RoomExplanation, RoomView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { phaseText, type Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { relative, when } from "../output/time.ts";

export function addRoom(program: Command): void {
  const room = program.command("room").description("look at rooms");
  room
    .command("list")
    .description("rooms, the newest first")
    .option("--lobby <name>", "only those of one lobby")
    .option("--phase <phase>", "only those in one phase: gathering, travelling, playing")
    .option("--limit <number>", "at most so many", wholeNumber("--limit", 1, 500), 100)
    .action(async (options: { lobby?: string; phase?: string; limit: number }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const page = await operator.rooms(options);
      page.rooms.sort((a, b) => b.openedAtMs - a.openedAtMs);
      screen.show(page, ({ rooms, next }) => renderList(rooms, next !== undefined, screen));
      if (!screen.json && page.rooms[0]) screen.note(`next: yh room show ${page.rooms[0].code}`);
    });
  room
    .command("show")
    .description("one room, by code or id: members, what it waits for, why it cannot start")
    .argument("<room>", "code or id")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const [view, explanation] = await Promise.all([operator.room(id), operator.explainRoom(id)]);
      screen.show({ ...view, explanation }, () => renderOne(view, explanation, screen));
    });
  addVerbs(room);
}

interface Reasoned {
  readonly reason?: string;
}

/** What operators do to a room. */
function addVerbs(room: Command): void {
  const REASON = ["--reason <text>", "told to whom it concerns"] as const;
  room
    .command("close")
    .description("close a room; its members stand in the lobby again")
    .argument("<room>", "code or id")
    .option(...REASON)
    .action(async (id: string, { reason }: Reasoned, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.closeRoom(id, reason), () => [`Room ${id} is closed.`]);
    });
  room
    .command("put-out")
    .description("put a member out of a room")
    .argument("<room>", "code or id")
    .argument("<player>", "id; yh room show lists them")
    .option(...REASON)
    .option("--ban", "and do not let it come back in")
    .action(async (id: string, player: string, options: Reasoned & { ban?: boolean }, command: Command) => {
      const { screen, operator } = contextOf(command);
      const how = options.ban ? " for good" : "";
      screen.show(await operator.putOutOfRoom(id, player, options), () => [
        `${player} is put out of room ${id}${how}.`,
      ]);
    });
  room
    .command("hand-over")
    .description("make another member the host")
    .argument("<room>", "code or id")
    .argument("<player>", "id; yh room show lists them")
    .action(async (id: string, player: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      screen.show(await operator.handOverRoom(id, player), () => [`${player} is host of room ${id} now.`]);
    });
}

function renderList(rooms: readonly RoomView[], hasMore: boolean, { width, absolute }: Screen): string[] {
  if (rooms.length === 0) return ["No rooms. A player opens one with room.open: yh play --name Ansel, then open."];
  const now = Date.now();
  const lines = table(
    rooms,
    [
      { heading: "CODE", value: (room) => pc.bold(room.code) },
      { heading: "PHASE", value: (room) => phaseText(room.phase) },
      { heading: "MEMBERS", value: (room) => `${Object.keys(room.members).length}/${room.capacity}`, align: "right" },
      { heading: "LEVEL", value: (room) => room.level?.id ?? "-" },
      { heading: "HOST", value: (room) => hostOf(room) },
      { heading: "OPENED", value: (room) => when(room.openedAtMs, now, absolute) },
      { heading: "WAITS FOR", value: (room) => waitsFor(room) },
    ],
    width,
  );
  const count = `${rooms.length} ${rooms.length === 1 ? "room" : "rooms"}`;
  return [...lines, pc.dim(hasMore ? `${count}, and more: raise --limit` : count)];
}

const hostOf = (room: RoomView) => (room.host === undefined ? "-" : (room.members[room.host]?.name ?? room.host));

function waitsFor(room: RoomView): string {
  if (room.phase === "playing") return "the result";
  if (room.phase === "counting") return "the countdown";
  const { travel } = room;
  if (travel?.step === "preparing") return "an instance";
  if (travel) return travel.waitingFor.map((player) => room.members[player]?.name ?? player).join(", ");
  return room.missing.length === 0 ? "the host to start" : room.missing.map((row) => row.text).join("; ");
}

function renderOne(room: RoomView, explanation: RoomExplanation, { width, absolute }: Screen): string[] {
  const now = Date.now();
  const { result, destination, travel } = room;
  const address = destination?.address ?? travel?.address;
  const instance = destination?.instance ?? travel?.instance;
  const rank = (player: string) => result?.standings.find((row) => row.player === player);
  return [
    `${pc.bold(room.code)}  ${room.name}  ${phaseText(room.phase)}  ${pc.dim(room.id)}`,
    `lobby ${room.lobby}, kind ${room.kind}, level ${room.level?.id ?? "none picked"}, opened ${when(room.openedAtMs, now, absolute)}, revision ${room.revision}`,
    ...(instance ? [`instance ${instance}${address ? ` at ${address.host}:${address.port}` : ""}`] : []),
    "",
    ...explanation.text,
    "",
    ...table(
      Object.values(room.members).sort((a, b) => a.place - b.place),
      [
        { heading: "PLACE", value: (member) => String(member.place), align: "right" },
        { heading: "NAME", value: (member) => (member.id === room.host ? `${member.name} (host)` : member.name) },
        { heading: "READY", value: (member) => (member.ready ? pc.green("ready") : "not ready") },
        {
          heading: "PRESENCE",
          value: (member) =>
            member.awayUntilMs === undefined
              ? "here"
              : pc.yellow(`away, place given up ${relative(member.awayUntilMs, now)}`),
        },
        {
          heading: "LAST RESULT",
          value: (member) => (rank(member.id) ? `${rank(member.id)?.rank}. with ${rank(member.id)?.score}` : "-"),
        },
        { heading: "ID", value: (member) => pc.dim(member.id) },
      ],
      width,
    ),
    pc.dim(
      `${Object.keys(room.members).length} of ${room.capacity} places taken${result?.note ? `; last run: ${result.note}` : ""}`,
    ),
  ];
}
