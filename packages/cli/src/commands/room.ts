import type { MemberView, RoomExplanation, RoomView } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { phaseText, type Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { relative, when } from "../output/time.ts";
import { addRoomVerbs } from "./room-verbs.ts";

export function addRoom(program: Command): void {
  const room = program.command("room").description("look at rooms");
  room
    .command("list")
    .description("rooms, the newest first")
    .option("--lobby <name>", "only those of one lobby")
    .option("--phase <phase>", "only those in one phase: gathering, counting, travelling, playing, results")
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
  addRoomVerbs(room);
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
  if (room.phase === "results") return "a look at the result";
  const { travel } = room;
  if (travel?.step === "preparing") return "an instance";
  if (travel) return travel.waitingFor.map((player) => room.members[player]?.name ?? player).join(", ");
  return room.missing.length === 0 ? "the host to start" : room.missing.map((row) => row.text).join("; ");
}

function settingsLine({ settings, visibility, banned }: RoomView): string[] {
  const free = Object.entries(settings).map(([key, value]) => `${key} ${value}`);
  const more = [visibility === "listed" ? "" : visibility, ...free, banned.length > 0 ? `${banned.length} banned` : ""];
  const said = more.filter((part) => part !== "");
  return said.length === 0 ? [] : [said.join(", ")];
}

function nameIn({ host, baton }: RoomView, { id, name }: MemberView): string {
  const marks = [id === host && "host", id === baton?.holder && "turn"].filter(Boolean);
  return marks.length === 0 ? name : `${name} (${marks.join(", ")})`;
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
    ...settingsLine(room),
    ...(instance ? [`instance ${instance}${address ? ` at ${address.host}:${address.port}` : ""}`] : []),
    "",
    ...explanation.text,
    "",
    ...table(
      Object.values(room.members).sort((a, b) => a.place - b.place),
      [
        { heading: "PLACE", value: (member) => String(member.place), align: "right" },
        { heading: "NAME", value: (member) => nameIn(room, member) },
        ...(room.sides ? [{ heading: "SIDE", value: (member: MemberView) => member.side ?? "-" }] : []),
        { heading: "READY", value: (member) => (member.ready ? pc.green("ready") : "not ready") },
        {
          heading: "PRESENCE",
          value: (member) =>
            member.awayUntilMs === undefined
              ? "here"
              : pc.yellow(`away, place given up ${relative(member.awayUntilMs, now)}`),
        },
        {
          heading: "LATENCY",
          value: ({ latencyMs, jitterMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms ±${jitterMs}`),
          align: "right",
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
