import { type JoinExplanation, type ProblemCode, phaseWords, type SideName } from "@yellow-harbor/protocol";
import { hostName } from "../../model/find-room.ts";
import type { Player } from "../../model/players/state.ts";
import { isBanned } from "../../model/rooms/bans.ts";
import { openPlaces, type Reservation, reservationOf } from "../../model/rooms/reservations.ts";
import { freeSide, sidesFull } from "../../model/rooms/sides.ts";
import type { Room } from "../../model/rooms/state.ts";
import { takesNow } from "../../model/rooms/takes-now.ts";
import type { RoomsPart } from "../../model/state.ts";

/** An obstacle to letting a player in, and what would remove it. */
export interface Obstacle {
  readonly code: ProblemCode;
  readonly text: string;
  readonly change: string;
}

type JoiningPlayer = Pick<Player, "id" | "build" | "identity" | "origin">;

interface Way {
  /** Whether the room's code was given. */
  readonly byCode: boolean;
  /** The room's password, as it was said. */
  readonly password?: string | undefined;
  /** Whether nobody asks it for one: it follows its leader, or looks on already. */
  readonly isTrusted?: boolean;
  readonly side?: SideName | undefined;
  /** Whether an operator puts it in: how one gets in does not matter then. */
  readonly isPut?: boolean;
}

/** Every obstacle to a player who wants to join, in the order in which they are checked; each has a code of its own. */
export function obstacles(room: Room, joining: JoiningPlayer, way: Way): Obstacle[] {
  const { byCode, side, isPut = false, isTrusted = false } = way;
  const found: Obstacle[] = [];
  const against = (code: ProblemCode, text: string, change: string) => found.push({ code, text, change });
  const { code, policy, stage } = room;
  const { phase } = stage;
  const own = reservationOf(room, joining);
  const mayAnyway = own !== undefined || isPut;
  if (isBanned(room, joining)) {
    against("banned-from-room", `You are banned from room ${code}`, "its host or an operator lifts the ban");
  }
  if (room.build !== "" && joining.build !== room.build) {
    against(
      "room-build-differs",
      `Room ${code} plays build ${room.build}, not ${joining.build}`,
      "join a room of your own build",
    );
  }
  if (room.visibility === "locked" && !mayAnyway) {
    against("room-locked", `Room ${code} is locked`, `its host, ${hostName(room)}, opens it`);
  }
  if (room.visibility === "code-only" && !byCode && !mayAnyway) {
    against("room-code-needed", "This room is joined by its code alone", "ask a member for the code");
  }
  if (room.password !== undefined && !mayAnyway && !isTrusted && way.password !== room.password) {
    const isSaid = way.password !== undefined;
    against(
      isSaid ? "room-password-wrong" : "room-password-needed",
      isSaid ? `Room ${code} has another password` : `Room ${code} has a password`,
      "ask a member for the password, or for an invitation",
    );
  }
  if (!takesNow(room) && !(mayAnyway && phase !== "counting")) {
    const later =
      policy.lateJoining === "backfill" && phase !== "counting" ? "only a queue fills it up while it plays; " : "";
    against("room-started", `Room ${code} ${phaseWords[phase]}`, `${later}it can be joined again once it is gathering`);
  }
  return [...found, ...placeObstacles(room, side, own)];
}

/** What is against one more member, whoever it is. */
export function placeObstacles(room: Room, side: SideName | undefined, own: Reservation | undefined): Obstacle[] {
  const found: Obstacle[] = [];
  const against = (code: ProblemCode, text: string, change: string) => found.push({ code, text, change });
  const { code, policy } = room;
  if (own === undefined && openPlaces(room) <= 0) {
    against("room-full", `Room ${code} is full: ${takenText(room)}`, "a member leaves");
  } else if (sidesFull(room, own)) {
    against("side-full", `All sides of room ${code} are full`, "a member leaves a side");
  }
  if (side !== undefined && policy.sides?.names.includes(side) !== true) {
    const names = policy.sides?.names.join(", ");
    against("side-unknown", `Room ${code} has no side ${side}`, names ? `ask for one of ${names}` : "ask for none");
  } else if (side !== undefined && !freeSide(room, side, own)) {
    against("side-full", `Side ${side} of room ${code} is full`, "take the other side, or none in particular");
  }
  return found;
}

function takenText({ members, capacity, reservations }: Room): string {
  const taken = `${members.size} of ${capacity} places are taken`;
  return reservations.size === 0 ? taken : `${taken} and ${reservations.size} kept for somebody`;
}

/** Why a player may or may not join a room, by its id, and what would change it. */
export function explainJoin(state: RoomsPart, room: Room, id: string): JoinExplanation | undefined {
  const player = state.players.byId.get(id);
  if (player === undefined) return undefined;
  const against = [...elsewhere(state, room, player.room), ...obstacles(room, player, { byCode: false })];
  const [first] = against;
  const said = against.map(
    ({ text, change }) => `${text.replace(/^You are/, `${player.name} is`)}. What would change it: ${change}.`,
  );
  return {
    player: id,
    room: room.id,
    canJoin: first === undefined,
    ...(first && { code: first.code }),
    against,
    text: first === undefined ? [`${player.name} can join room ${room.code} now.`] : said,
  };
}

function elsewhere(state: RoomsPart, room: Room, present: string | null): Obstacle[] {
  if (present === null) return [];
  if (present === room.id) {
    return [
      { code: "already-in-room", text: `The player is in room ${room.code} already`, change: "nothing; it is in" },
    ];
  }
  const other = state.rooms.byId.get(present)?.code ?? present;
  const change = "it leaves that room, or joins with move";
  return [{ code: "already-in-room", text: `The player is in room ${other}`, change }];
}
