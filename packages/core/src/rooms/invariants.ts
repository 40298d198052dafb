import { openPlaces } from "../model/rooms/reservations.ts";
import { sideSizes } from "../model/rooms/sides.ts";
import type { Member, Room } from "../model/rooms/state.ts";
import type { RoomsPart } from "../model/state.ts";
import { nameKey } from "./directory/open-index.ts";
import { missingToStart } from "./start/explain.ts";
import { roomListing } from "./view.ts";

/** What must never be in a room, each in a sentence. */
export function roomViolations(state: RoomsPart): string[] {
  const admitted = new Set<string>();
  const rooms = [...state.rooms.byId.values()];
  const shelved = [...state.rooms.open.values()].flatMap((shelf) => [...shelf.values()].flatMap((row) => [...row]));
  const stray = shelved
    .filter((id) => !state.rooms.byId.get(id)?.indexed)
    .map((id) => `room ${id}: stray in the index`);
  const faults = rooms.flatMap((room) => {
    const members = [...room.members.values()];
    const faults = [
      ...whole(state, room, members),
      ...seating(state, room, members, admitted),
      ...watching(state, room),
      ...series(room),
      ...sides(room),
      ...index(state, room),
    ];
    return faults.map((fault) => `room ${room.id}: ${fault}`);
  });
  return [...stray, ...faults];
}

/** The faults among rules, each given with whether it is kept. */
const broken = (rules: readonly (readonly [kept: boolean, fault: string])[]) =>
  rules.filter(([kept]) => !kept).map(([, fault]) => fault);

function whole({ travels }: RoomsPart, room: Room, members: readonly Member[]): string[] {
  const { stage, host, turn, policy, keptUntilMs, reservations } = room;
  const { phase } = stage;
  return broken([
    [policy.emptyMs > 0 || members.length > 0 || keptUntilMs !== null, "it is empty and was not closed"],
    [members.length <= room.capacity, `${members.length} members and a capacity of ${room.capacity}`],
    [openPlaces(room) >= 0, `${members.length} members, ${reservations.size} reservations, ${room.capacity} places`],
    [(host === null) === (members.length === 0), "it has members and no host, or a host and no members"],
    [host === null || room.members.has(host), "the host is no member"],
    [turn === null || room.members.has(turn.holder), "the turn is in the hand of somebody who is no member"],
    [stage.phase !== "travelling" || travels.byRun.has(stage.run), "it is travelling without a travel"],
    [phase === "gathering" || missingToStart(room).length === 0, `phase ${phase} while something is missing to start`],
  ]);
}

function seating({ players }: RoomsPart, room: Room, members: readonly Member[], admitted: Set<string>): string[] {
  const places = new Set(members.map(({ place }) => place));
  const own = members.flatMap(({ id, place, presence }) => {
    const isFirst = !admitted.has(id);
    admitted.add(id);
    const player = players.byId.get(id);
    return broken([
      [isFirst, `${id} is in another room too`],
      [place < room.capacity, `${id} has place ${place} of ${room.capacity}`],
      [player?.room === room.id, `${id} is said to be in ${player?.room}`],
      [player?.presence === presence, `${id} is ${presence} in the room and ${player?.presence} in the harbor`],
    ]);
  });
  return [...own, ...broken([[places.size === members.length, "two members have one place"]])];
}

function watching({ players }: RoomsPart, room: Room): string[] {
  const max = room.policy.spectators?.max ?? 0;
  const places = new Set([...room.spectators.values()].map(({ place }) => place));
  return broken([
    [room.spectators.size <= max, `${room.spectators.size} look on, where ${max} may`],
    [places.size === room.spectators.size, "two spectators have one place"],
    ...[...room.spectators.values()].flatMap(({ id, place, presence }) => {
      const player = players.byId.get(id);
      return [
        [!room.members.has(id), `${id} is a member and looks on`],
        [place < max, `spectator ${id} has place ${place} of ${max}`],
        [player?.room === room.id, `${id} looks on, and is said to be in ${player?.room}`],
        [
          player?.presence === presence,
          `spectator ${id} is ${presence} in the room and ${player?.presence} in the harbor`,
        ],
      ] as const;
    }),
  ]);
}

function series({ series, policy }: Room): string[] {
  if (series === null) return [];
  const wins = Object.values(series.wins).reduce((sum, one) => sum + one, 0);
  const most = policy.series?.bestOf ?? 0;
  return broken([
    [wins <= series.played, `${wins} runs of its series are won, and ${series.played} were played`],
    [series.played <= most, `${series.played} runs of its series were played, where ${most} may be`],
    [series.over || series.played < most, "its series goes on beyond its last run"],
  ]);
}

function sides(room: Room): string[] {
  const { sides } = room.policy;
  const strays = [...room.members.values()].filter(({ side }) =>
    sides === null ? side !== null : side === null || !sides.names.includes(side),
  );
  const over = [...sideSizes(room)].filter(([, size]) => size > (sides?.max ?? 0));
  return [
    ...strays.map(({ id, side }) => `${id} stands on side ${side}`),
    ...over.map(([side, size]) => `${size} stand on side ${side}`),
  ];
}

function index({ rooms }: RoomsPart, room: Room): string[] {
  const isOpen = roomListing(room).isOpen && room.visibility === "listed" && room.password === undefined;
  const { indexed } = room;
  const free = openPlaces(room);
  const isShelved = indexed !== null && rooms.open.get(indexed.shelf)?.get(indexed.free)?.has(room.id) === true;
  return broken([
    [isOpen === (indexed !== null), isOpen ? "the index of open rooms lacks it" : "the index of open rooms has it"],
    [indexed === null || (isShelved && indexed.free === free), "the index of open rooms has it in a wrong place"],
    [rooms.byName.get(nameKey(room.lobby, room.name))?.has(room.id) === true, "it cannot be found by its name"],
    [rooms.byCode.get(room.code) === room.id, "it cannot be found by its code"],
  ]);
}
