import { counted, type RoomView, waitsFor } from "@yellow-harbor/protocol";
import type { Command } from "commander";
import pc from "picocolors";
import { contextOf, wholeNumber } from "../context.ts";
import { roomLines } from "../output/room-lines.ts";
import { phaseText, type Screen } from "../output/screen.ts";
import { table } from "../output/table.ts";
import { when } from "../output/time.ts";
import { addRoomOperations } from "./room-operations.ts";
import { addRoomVerbs } from "./room-verbs.ts";

interface Listed {
  readonly lobby?: string;
  readonly phase?: string;
  readonly region?: string;
  readonly limit: number;
  readonly after?: string;
}

export function addRoom(program: Command): void {
  const room = program.command("room").description("list rooms, and act on them");
  room
    .command("list")
    .description("list rooms, the newest first")
    .option("--lobby <name>", "only those of one lobby")
    .option("--phase <phase>", "only those in one phase: gathering, counting, travelling, playing, results")
    .option("--region <region>", "only those that play in one region")
    .option("--limit <number>", "at most this many", wholeNumber("--limit", 1, 500), 100)
    .option("--after <cursor>", "next page, by the cursor of the page before")
    .action(async (options: Listed, command: Command) => {
      const { screen, operator } = contextOf(command);
      const page = await operator.rooms(options);
      screen.show(page, ({ rooms, next }) => renderList(rooms, next, screen));
      if (!screen.json && page.rooms[0]) screen.note(`next: yh room show ${page.rooms[0].code}`);
    });
  room
    .command("show")
    .description("show a room: members, what it waits for, why it cannot start")
    .argument("<room>", "code or id")
    .action(async (id: string, _options: unknown, command: Command) => {
      const { screen, operator } = contextOf(command);
      const [view, explanation] = await Promise.all([operator.room(id), operator.explainRoom(id)]);
      screen.show({ ...view, explanation }, () => roomLines(view, screen, Date.now(), explanation.text));
    });
  addRoomOperations(room);
  addRoomVerbs(room);
}

function renderList(rooms: readonly RoomView[], next: string | undefined, { width, absolute }: Screen): string[] {
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
  const count = counted(rooms.length, "room");
  return [...lines, pc.dim(next === undefined ? count : `${count}, and older ones behind --after ${next}`)];
}

const hostOf = (room: RoomView) => (room.host === undefined ? "-" : (room.members[room.host]?.name ?? room.host));
