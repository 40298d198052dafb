import { type PoolView, type QueueSummary, type RoomView, waitsFor } from "@yellow-harbor/protocol";
import pc from "picocolors";
import { phaseText } from "../output/screen.ts";
import type { Column } from "../output/table.ts";
import { duration } from "../output/time.ts";
import type { Reading } from "./reading.ts";

/** A column that rows can be sorted by. */
interface SortedColumn<Row> extends Column<Row> {
  readonly by: (row: Row) => string | number;
}

/** One of the lists of the view: what is in it, and how it is shown. */
export interface List<Row> {
  readonly title: string;
  readonly rows: (reading: Reading) => readonly Row[];
  readonly id: (row: Row) => string;
  /** What a filter looks through. */
  readonly text: (row: Row) => string;
  readonly columns: (atMs: number) => readonly SortedColumn<Row>[];
  /** What is said when there is nothing in it. */
  readonly empty: string;
}

/** Sorts nothing of its own kind before anything else. */
const column = <Row>(
  heading: string,
  value: (row: Row) => string,
  by: (row: Row) => string | number = value,
  align?: "right",
): SortedColumn<Row> => ({ heading, value, by, ...(align && { align }) });

const number = <Row>(heading: string, by: (row: Row) => number) =>
  column<Row>(
    heading,
    (row) => String(by(row)),
    (row) => -by(row),
    "right",
  );

const members = ({ members: all }: RoomView) => Object.values(all);

const rooms: List<RoomView> = {
  title: "rooms",
  rows: ({ rooms: all }) => all,
  id: ({ id }) => id,
  text: (room) =>
    [room.code, room.name, room.id, room.lobby, room.kind, ...members(room).map(({ name }) => name)].join(" "),
  columns: (atMs) => [
    column(
      "OPEN FOR",
      ({ openedAtMs }) => duration(atMs - openedAtMs),
      ({ openedAtMs }) => openedAtMs,
      "right",
    ),
    column(
      "CODE",
      ({ code }) => pc.bold(code),
      ({ code }) => code,
    ),
    column(
      "PHASE",
      ({ phase }) => phaseText(phase),
      ({ phase }) => phase,
    ),
    column(
      "MEMBERS",
      (room) => `${members(room).length} of ${room.capacity}`,
      (room) => -members(room).length,
      "right",
    ),
    number("AWAY", (room) => members(room).filter(({ presence }) => presence === "away").length),
    column("LOBBY", ({ lobby }) => lobby),
    column("KIND", ({ kind }) => kind),
    column("LEVEL", ({ level }) => level?.id ?? "-"),
    column("WAITS FOR", waitsFor),
  ],
  empty: "No rooms are open.",
};

const queues: List<QueueSummary> = {
  title: "queues",
  rows: ({ queues: all }) => all,
  id: ({ id }) => id,
  text: ({ id, title, lobby }) => `${id} ${title} ${lobby}`,
  columns: (atMs) => [
    column(
      "LONGEST WAIT",
      ({ oldestSinceMs }) => (oldestSinceMs === undefined ? "-" : duration(atMs - oldestSinceMs)),
      ({ oldestSinceMs }) => oldestSinceMs ?? Number.MAX_SAFE_INTEGER,
      "right",
    ),
    column(
      "QUEUE",
      ({ id }) => pc.bold(id),
      ({ id }) => id,
    ),
    column(
      "MODE",
      ({ mode }) => (mode === "open" ? mode : pc.yellow(mode)),
      ({ mode }) => mode,
    ),
    number("PLAYERS", ({ players }) => players),
    number("TICKETS", ({ tickets }) => tickets),
    number("CONFIRMING", ({ confirming }) => confirming),
    number("MATCHES", ({ matches }) => matches),
    column("LOBBY", ({ lobby }) => lobby),
  ],
  empty: "There are no queues in the configuration.",
};

const pools: List<PoolView> = {
  title: "pools",
  rows: ({ pools: all }) => all,
  id: ({ id }) => id,
  text: ({ id, build }) => `${id} ${build}`,
  columns: () => [
    column(
      "HELD",
      ({ held, max }) => `${held} of ${max}`,
      ({ held, max }) => -held / max,
      "right",
    ),
    column(
      "POOL",
      ({ id }) => pc.bold(id),
      ({ id }) => id,
    ),
    column("PLANNER", plannerOf),
    column(
      "WANTED",
      ({ plan }) => (plan ? String(plan.wanted) : "-"),
      ({ plan }) => -(plan?.wanted ?? 0),
      "right",
    ),
    number("FREE", ({ idle }) => idle),
    number("COMING", ({ coming }) => coming),
    number("DRAINING", ({ draining }) => draining),
    column(
      "FAILED",
      ({ failures }) => (failures === 0 ? "0" : pc.red(String(failures))),
      ({ failures }) => -failures,
      "right",
    ),
    column("BUILD", ({ build }) => build),
  ],
  empty: "There are no pools in the configuration.",
};

function plannerOf({ plan, mode, pinned }: PoolView): string {
  if (plan === undefined) return "on demand";
  if (mode === "paused") return pc.yellow("paused");
  return pinned === undefined ? "planned" : "pinned";
}

export const lists = { rooms, queues, pools } as const;
export type ListName = keyof typeof lists;
export const listNames = Object.keys(lists) as ListName[];
/** Whichever it is: what is done with its rows is the same. */
export const listOf = (name: ListName) => lists[name] as unknown as List<object>;
