import type { Problem } from "@yellow-harbor/protocol";
import type { OutOfRoom } from "../lobbies/index.ts";
import type { Command } from "./command.ts";
import type { EventKind, HarborEvent } from "./event.ts";
import type { HarborState } from "./state.ts";

/** A command that follows from an event in another capability; `otherwise` is what is done when it is refused. */
export interface Consequence {
  readonly command: Command;
  readonly otherwise?: (refused: Problem) => Command;
}

type Reaction<K extends EventKind> = (
  event: Extract<HarborEvent, { kind: K }>,
  state: HarborState,
) => readonly Command[] | Consequence;

/** What follows from what. Read it from top to bottom: a player comes, gathers, travels, plays, and is let go of. */
const reactions: { readonly [K in EventKind]?: Reaction<K> } = {
  // What waits for its members, or starts by itself with them.
  "harbor.recovered": (_event, state) =>
    [...state.rooms.byId.values()]
      .filter(({ phase, ways }) => phase === "counting" || (phase === "gathering" && ways.autoStart))
      .map(({ id }) => ({ do: "room.consider", room: id })),

  // Coming and going.
  "player.entered": ({ player, name, lobby }) => [{ do: "lobby.stand", lobby, player, name, presence: "here" }],
  "player.lost": ({ player, untilMs }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    return known.room === null
      ? [{ do: "lobby.mark-away", lobby: known.lobby, player }]
      : [{ do: "room.mark-away", room: known.room, player, untilMs }];
  },
  "player.resumed": ({ player }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    return known.room === null
      ? [{ do: "lobby.mark-back", lobby: known.lobby, player }]
      : [{ do: "room.mark-back", room: known.room, player }];
  },
  "player.measured": ({ player, latency }, state) => {
    const room = state.players.byId.get(player)?.room;
    return room == null ? [] : [{ do: "room.measure", room, player, latency }];
  },
  "player.left": ({ player, reason, lobby, room }) => [
    { do: "lobby.step-out", lobby, player, reason },
    ...(room === null ? [] : [{ do: "room.depart", room, player, reason } as const]),
  ],

  // Lobby and room: a player stands in exactly one of them.
  "room.opened": ({ lobby, host }) => [{ do: "lobby.step-out", lobby, player: host, reason: "into-room" }],
  "room.joined": ({ room: id, player, name, place }, state) => {
    const known = state.players.byId.get(player);
    const run = state.rooms.byId.get(id)?.run;
    return [
      ...(known ? [{ do: "lobby.step-out", lobby: known.lobby, player, reason: "into-room" } as const] : []),
      ...(run ? comeAlong(id, run, { id: player, name, place }, true) : []),
      { do: "room.check-host", room: id },
      { do: "room.check-baton", room: id },
      { do: "room.consider", room: id },
    ];
  },
  "room.departed": (event, state) => {
    const { room: id, player, reason, why, by } = event;
    const room = state.rooms.byId.get(id);
    const run = room?.run;
    const isEmpty = room?.members.size === 0;
    return [
      ...standAgain(event, state),
      { do: "room.consider", room: id },
      { do: "pool.free-berth", room: id, player },
      ...(run ? [{ do: "travel.forget", run, player } as const] : []),
      ...(reason === "closed" ? [{ do: "room.dissolve", room: id, reason: why, by: by ?? "operator" } as const] : []),
      ...(closesWithHost(event, state)
        ? [{ do: "room.dissolve", room: id, reason: "its host has left", by: "host" } as const]
        : []),
      // Last of all, and only for the last one to go: what else follows from the departure still needs the room.
      ...(isEmpty ? emptied(event, state) : []),
    ];
  },

  // What start depends on: a count may have to stop, and a room that starts by itself may be complete.
  "room.ready-set": ({ room }) => [{ do: "room.consider", room }],
  "room.level-picked": ({ room }) => [{ do: "room.consider", room }],
  "room.settings-changed": ({ room }) => [{ do: "room.consider", room }],
  "room.moved": ({ room }) => [{ do: "room.consider", room }],
  "room.swapped": ({ room }) => [{ do: "room.consider", room }],
  "room.balanced": ({ room }) => [{ do: "room.consider", room }],
  "room.gathered": ({ room }) => [{ do: "room.consider", room }],

  // Who is away loses its turn, and in time the powers; who is back takes them up when nobody else could.
  "room.member-away": ({ room }) => [
    { do: "room.consider", room },
    { do: "room.check-baton", room },
  ],
  "room.member-back": ({ room: id, player }, state) => {
    const room = state.rooms.byId.get(id);
    const member = room?.members.get(player);
    return [
      ...(room?.run && member ? comeAlong(id, room.run, member, false) : []),
      { do: "room.check-host", room: id },
      { do: "room.check-baton", room: id },
      { do: "room.consider", room: id },
    ];
  },

  // Start: the room travels, the travel needs an instance, the instance needs the match.
  "room.started": ({ room, run, order }) => [
    { do: "travel.call", room, run, level: order.level, pool: order.pool, travellers: order.members },
  ],
  "travel.called": ({ run, room, pool }) => askForInstance(run, room, pool),
  "travel.retried": ({ run, room }, state) => askForInstance(run, room, state.travels.byRun.get(run)?.pool ?? ""),
  "instance.claimed": ({ instance }, state) => assignWaitingMatch(instance, state),
  "instance.opened": ({ instance }, state) => assignWaitingMatch(instance, state),
  "instance.took-orders": ({ instance: id, taken }, state) => {
    const instance = state.pools.instances.get(id);
    if (instance?.match == null || taken < instance.match.order) return [];
    return [{ do: "travel.board", run: instance.match.run, instance: id, address: instance.address }];
  },

  // Arrival, and the run itself.
  "instance.boarded": ({ run, player }) => [{ do: "travel.arrive", run, player }],
  "travel.completed": ({ room, run, instance, address }) => [{ do: "room.play", room, run, instance, address }],
  "instance.reported": ({ room, run, standings, note }) => [{ do: "room.take-result", room, run, standings, note }],
  "room.result-set": ({ room, run }) => [{ do: "pool.end-match", room, run, reason: "its result is set" }],

  // What ends before its time.
  "travel.failed": ({ room, run, code, detail }) => [
    { do: "room.return", room, run, code, detail },
    { do: "pool.release", room, reason: "the travel it was meant for was given up" },
  ],
  "instance.failed": ({ room, why, instance }, state) => loseInstance(room, `${instance} ${why}.`, state),
  "instance.exited": ({ room, why, instance }, state) => loseInstance(room, `${instance} ${why}.`, state),

  // Letting go.
  "room.closed": ({ room }) => [{ do: "pool.release", room, reason: "its room closed" }],
};

export function reactTo(event: HarborEvent, state: HarborState): readonly Consequence[] {
  const reaction = reactions[event.kind] as Reaction<EventKind> | undefined;
  if (reaction === undefined) return [];
  const result = reaction(event, state);
  return "command" in result ? [result] : result.map((command) => ({ command }));
}

/** Who left a room stands in its lobby again, unless it went to another room or is gone altogether. */
function standAgain(event: Extract<HarborEvent, { kind: "room.departed" }>, state: HarborState): readonly Command[] {
  const { player, name, reason } = event;
  const known = state.players.byId.get(player);
  if (known === undefined || reason === "moved") return [];
  const { lobby, presence } = known;
  return [{ do: "lobby.stand", lobby, player, name, presence, ...because(event) }];
}

/** Where the room kind says so, a room does not outlive its host's going. */
function closesWithHost({ room, reason, host }: Extract<HarborEvent, { kind: "room.departed" }>, state: HarborState) {
  return host !== undefined && reason !== "closed" && state.rooms.byId.get(room)?.ways.hostGoes === "close";
}

/** A room that nobody is in closes, at once or after its time; either way its run is over. */
function emptied(
  { room: id, reason }: Extract<HarborEvent, { kind: "room.departed" }>,
  state: HarborState,
): readonly Command[] {
  const room = state.rooms.byId.get(id);
  const close: Command = { do: "room.close", room: id };
  if (room === undefined || room.ways.emptyMs === 0 || reason === "closed") return [close];
  if (room.run === null) return [];
  const detail = "Everybody has left.";
  return [
    { do: "room.return", room: id, run: room.run, code: "everybody-left", detail },
    { do: "pool.release", room: id, reason: "everybody has left its room" },
  ];
}

/** A member who is not on the way yet goes where the others are; `anew` when it has just come in. */
function comeAlong(
  room: string,
  run: string,
  { id, name, place }: { readonly id: string; readonly name: string; readonly place: number },
  anew: boolean,
): readonly Command[] {
  const player = { id, name, place };
  return [
    { do: "travel.admit", run, player },
    { do: "pool.add-berth", room, run, player, anew },
  ];
}

function askForInstance(run: string, room: string, pool: string): Consequence {
  return {
    command: { do: "pool.hand-out", pool, room, run },
    otherwise: ({ code, detail }) => ({ do: "travel.fail", run, code, detail }),
  };
}

/** The room that holds an open instance may be waiting for it. */
function assignWaitingMatch(id: string, state: HarborState): readonly Command[] {
  const instance = state.pools.instances.get(id);
  const room = instance?.room == null ? undefined : state.rooms.byId.get(instance.room);
  const travel = room?.run == null ? undefined : state.travels.byRun.get(room.run);
  if (instance?.state !== "open" || room === undefined || travel?.step !== "preparing") return [];
  const players = [...travel.travellers.values()].map(({ id: player, name, place }) => ({ id: player, name, place }));
  const match = { room: room.id, run: travel.run, level: travel.level.id, players };
  return [{ do: "instance.assign", instance: id, match }];
}

function loseInstance(room: string | null, detail: string, state: HarborState): readonly Command[] {
  const run = room === null ? null : state.rooms.byId.get(room)?.run;
  if (room === null || run == null) return [];
  if (state.travels.byRun.has(run)) return [{ do: "travel.lose-instance", run, detail }];
  return [{ do: "room.return", room, run, code: "instance-lost", detail: `The instance was lost: ${detail}` }];
}

/** Who did not leave by itself is told why it stands in the lobby again. */
function because({ room, reason, by = "operator", why }: Extract<HarborEvent, { kind: "room.departed" }>): {
  because?: OutOfRoom;
} {
  if (reason !== "put-out" && reason !== "closed") return {};
  return { because: { room, cause: reason, by, ...(why !== undefined && { why }) } };
}
