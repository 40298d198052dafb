import type { OutOfRoom } from "../lobbies/index.ts";
import { matchesOf, matchWith } from "../pools/index.ts";
import type { Command } from "./command.ts";
import type { Consequence } from "./consequence.ts";
import type { EventKind, HarborEvent } from "./event.ts";
import { runOf } from "./find-room.ts";
import { assignWaitingMatches, considerBuild, drainVersions, loseInstance } from "./instance-consequences.ts";
import { becomeRoom, startMatch, undoMatch } from "./match-consequences.ts";
import type { HarborState } from "./state.ts";

type Reaction<K extends EventKind> = (
  event: Extract<HarborEvent, { kind: K }>,
  state: HarborState,
) => readonly (Command | Consequence)[];

/** What follows from what. Read it from top to bottom: a player comes, gathers, travels, plays, and is let go of. */
const reactions: { readonly [K in EventKind]?: Reaction<K> } = {
  // What waits for its members, or starts by itself with them.
  "harbor.recovered": (_event, state) => [
    ...[...state.rooms.byId.values()]
      .filter(({ stage: { phase }, ways }) => phase === "counting" || (phase === "gathering" && ways.autoStart))
      .map(({ id }) => ({ do: "room.consider", room: id }) as const),
    ...[...state.travels.byRun.keys()].map((run) => ({ do: "travel.consider", run }) as const),
  ],

  // Coming and going.
  "player.entered": ({ player, name, lobby }) => [{ do: "lobby.stand", lobby, player, name, presence: "here" }],
  "player.lost": ({ player, untilMs }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    return known.room === null
      ? [
          { do: "lobby.mark-away", lobby: known.lobby, player },
          { do: "queue.check-presence", player },
        ]
      : [{ do: "room.mark-away", room: known.room, player, untilMs }];
  },
  "player.resumed": ({ player }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    return known.room === null
      ? [
          { do: "lobby.mark-back", lobby: known.lobby, player },
          { do: "queue.check-presence", player },
        ]
      : [{ do: "room.mark-back", room: known.room, player }];
  },
  "player.measured": ({ player, latency }, state) => {
    const room = state.players.byId.get(player)?.room;
    return room == null ? [] : [{ do: "room.measure", room, player, latency }];
  },
  "player.left": ({ player, reason, lobby, room }) => [
    { do: "queue.drop-player", player, cause: "player-left" },
    { do: "lobby.step-out", lobby, player, reason },
    ...(room === null ? [] : [{ do: "room.depart", room, player, reason } as const]),
  ],

  // Lobby and room: a player stands in exactly one of them.
  "room.opened": ({ room, lobby, host, match }) => [
    { do: "queue.drop-player", player: host, cause: "went-elsewhere" },
    ...[host, ...(match?.others ?? []).map(({ id }) => id)].map(
      (player) => ({ do: "lobby.step-out", lobby, player, reason: "into-room" }) as const,
    ),
    ...(match ? [startMatch(room)] : []),
  ],
  "room.joined": ({ room: id, player, name, place, match }, state) => {
    const known = state.players.byId.get(player);
    const run = runOf(state.rooms.byId.get(id));
    return [
      { do: "queue.drop-player", player, cause: "went-elsewhere" },
      ...(known ? [{ do: "lobby.step-out", lobby: known.lobby, player, reason: "into-room" } as const] : []),
      ...(run ? comeAlong(id, run, { id: player, name, place }, true) : []),
      ...(match === undefined ? [] : [{ do: "queue.settle-filling", match } as const]),
      { do: "room.check-host", room: id },
      { do: "room.check-baton", room: id },
      { do: "room.consider", room: id },
    ];
  },
  "room.departed": (event, state) => {
    const { room: id, player, reason, why, by } = event;
    const room = state.rooms.byId.get(id);
    const run = runOf(room);
    const isEmpty = room?.members.size === 0;
    return [
      ...(reason === "closed"
        ? []
        : ([
            { do: "queue.forgo", room: id, player },
            { do: "queue.mind-leaver", room: id, name: event.name },
          ] as const)),
      ...standAgain(event, state),
      { do: "room.consider", room: id },
      { do: "pool.free-berth", room: id, player },
      ...(run ? [{ do: "travel.forget", room: id, run, player } as const] : []),
      ...(reason === "closed" ? [{ do: "room.dissolve", room: id, reason: why, by: by ?? "operator" } as const] : []),
      ...(closesWithHost(event, state)
        ? [{ do: "room.dissolve", room: id, reason: "its host has left", by: "host" } as const]
        : []),
      ...(isEmpty ? [{ do: "queue.stop-filling", room: id, why: "nobody is in it any more" } as const] : []),
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
  "room.member-away": ({ room }, state) => [
    { do: "room.consider", room },
    { do: "room.check-baton", room },
    ...considerTravel(room, state),
  ],
  "room.attended": ({ room }, state) => considerTravel(room, state),
  "room.voted": ({ room }) => [{ do: "room.consider", room }],
  "room.member-back": ({ room: id, player }, state) => {
    const room = state.rooms.byId.get(id);
    const member = room?.members.get(player);
    const run = runOf(room);
    return [
      ...(run && member ? comeAlong(id, run, member, false) : []),
      { do: "room.check-host", room: id },
      { do: "room.check-baton", room: id },
      { do: "room.consider", room: id },
    ];
  },

  // Start: the room travels, the travel needs a destination; where that is an instance, the instance needs the match.
  "room.started": ({ room, run, order: { members: travellers, level, pool, options, stragglers } }) => [
    { do: "travel.call", room, run, level, pool, options, stragglers, travellers },
  ],
  "travel.called": ({ run }, state) => prepare(run, state),
  "travel.retried": ({ run }, state) => prepare(run, state),
  "travel.rerouted": ({ run, room }, state) => [
    { do: "pool.release", room, reason: "its room goes another way" },
    { do: "travel.close-world", room },
    ...prepare(run, state),
  ],
  "instance.claimed": ({ instance }, state) => assignWaitingMatches(instance, state),
  "instance.opened": ({ instance }, state) => [
    ...assignWaitingMatches(instance, state),
    ...considerBuild(instance, state),
  ],
  "instance.took-orders": ({ instance: id, taken }, state) => {
    const instance = state.pools.instances.get(id);
    if (instance === undefined) return [];
    return matchesOf(instance)
      .filter(({ order }) => order <= taken)
      .map(({ run }) => ({ do: "travel.instance-ready", run, instance: id, address: instance.address }) as const);
  },

  // One that knows nothing of us takes no orders: it has the match as soon as it is to have it.
  "instance.assigned": ({ instance: id, match: { run } }, state) => {
    const instance = state.pools.instances.get(id);
    if (!instance?.isWatched) return [];
    return [{ do: "travel.instance-ready", run, instance: id, address: instance.address }];
  },

  // A match becomes a room, which starts at once; whatever fails on the way puts its players back where they searched.
  "queue.matched": ({ match, confirmByMs }, state) => (confirmByMs === undefined ? becomeRoom(match, state) : []),
  "queue.confirmed": ({ match }, state) => becomeRoom(match, state),
  "room.playing": ({ room }) => [{ do: "queue.settle", room }],
  "queue.room-ended": ({ room, why }) => [{ do: "room.dissolve", room, reason: why, by: "operator" }],

  // What the planner has decided is carried out one by one.
  "plan.made": ({ pool, order, retire, back = [], why }) => [
    ...back.map((id) => ({ do: "pool.take-back", id, why: `planned: ${why}` }) as const),
    ...Array.from({ length: order }, () => ({ do: "pool.order-ahead", pool, why: `planned: ${why}` }) as const),
    ...retire.map((id) => ({ do: "pool.retire", id, why: `planned: ${why}` }) as const),
  ],

  // Arrival, and the run itself.
  "instance.boarded": ({ run, player }) => [{ do: "travel.mark-arrived", run, player }],
  "instance.unboarded": ({ instance: id, player, run: own }, state) => {
    const instance = state.pools.instances.get(id);
    const run = own ?? (instance && matchWith(instance, player)?.run);
    return run === undefined ? [] : [{ do: "travel.mark-ashore", run, player }];
  },
  "travel.completed": ({ room, run, destination, late = [], without = [] }, state) => [
    { do: "room.play", room, run, destination },
    ...late.map((player) => ({ do: "room.depart", room, player, reason: "late" }) as const),
    ...(without.length > 0 ? [{ do: "pool.begin-match", room, run, without } as const] : []),
    ...without.flatMap((player) => {
      const member = state.rooms.byId.get(room)?.members.get(player);
      return member?.presence === "here" ? comeAlong(room, run, member, true) : [];
    }),
    ...(destination.by === "dedicated"
      ? []
      : [{ do: "pool.release", room, reason: "its room plays elsewhere" } as const]),
    { do: "pool.release-former", room },
  ],
  "instance.reported": ({ instance, room, run, standings, note }, state) => [
    { do: "room.take-result", room, run, standings, note },
    ...considerBuild(instance, state),
  ],
  "room.result-set": ({ room, run }) => [
    { do: "queue.stop-filling", room, why: "the match is over" },
    { do: "pool.end-match", room, run, reason: "its result is set" },
    { do: "travel.close-world", room },
  ],

  // What ends before its time.
  "travel.failed": ({ room, run, code, detail, aborted }) => [
    { do: "room.return", room, run, code, detail, aborted },
    { do: "pool.release", room, reason: "the travel it was meant for was given up" },
    { do: "pool.release-former", room },
  ],
  "room.returned": ({ room, run, code, detail }, state) => [
    // Its instance is there and plays on: it is told that it need not.
    ...(code === "result-overdue" ? [{ do: "pool.end-match", room, run, reason: detail } as const] : []),
    { do: "queue.stop-filling", room, why: "the match is over" },
    { do: "travel.close-world", room },
    ...undoMatch(room, detail, state),
  ],
  "travel.world-closed": ({ room, run, lost }) =>
    lost === undefined ? [] : [{ do: "room.lose-run", room, run, code: "instance-lost", detail: lost }],
  "instance.failed": ({ rooms, why, instance }, state) => [
    ...rooms.flatMap((room) => loseInstance(room, instance, why, state)),
    ...considerBuild(instance, state),
  ],
  "instance.exited": ({ rooms, why, instance, portTaken }, state) => [
    ...rooms.flatMap((room) => loseInstance(room, instance, why, state, portTaken)),
    ...considerBuild(instance, state),
  ],
  "instance.stop-ordered": ({ rooms = [], reason, instance }, state) =>
    rooms.flatMap((room) => loseInstance(room, instance, `was told to stop: ${reason}`, state)),
  "instance.returned": ({ instance }) => [{ do: "pool.stop-if-done", id: instance }],

  // A new version takes over, or does not: whatever runs of the other takes no new room, and stops when it may.
  "build.promoted": ({ line, version }, state) =>
    drainVersions(line, (other) => other !== version, `${version} has taken over`, state),
  "build.rolled-back": ({ line, version }, state) =>
    drainVersions(line, (other) => other === version, `${version} was rolled back`, state),
  "build.added": ({ line, version, rollOut }, state) =>
    rollOut === null ? drainVersions(line, (other) => other !== version, `${version} has taken over`, state) : [],

  // Letting go.
  "room.closed": ({ room }, state) => [
    ...undoMatch(room, "the match before did not come about", state),
    { do: "pool.release", room, reason: "its room closed" },
    { do: "pool.release-former", room },
    { do: "travel.close-world", room },
  ],
};

export function reactTo(event: HarborEvent, state: HarborState): readonly Consequence[] {
  const reaction = reactions[event.kind] as Reaction<EventKind> | undefined;
  if (reaction === undefined) return [];
  return reaction(event, state).map((next) => ("command" in next ? next : { command: next }));
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
  const run = runOf(room);
  if (run === null) return [];
  const detail = "Everybody has left.";
  return [
    { do: "room.return", room: id, run, code: "everybody-left", detail },
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
    { do: "travel.add-berth", room, run, player, anew },
  ];
}

/** The destination that is to be tried now: an instance is asked for, the rest the travel sees to itself. */
function prepare(run: string, state: HarborState): readonly (Command | Consequence)[] {
  const travel = state.travels.byRun.get(run);
  if (travel?.options[travel.option] !== "dedicated") return [{ do: "travel.prepare", run }];
  return [
    {
      command: { do: "pool.hand-out", pool: travel.pool ?? "", room: travel.room, run },
      otherwise: ({ code, detail }) => ({ do: "travel.forgo", run, code, detail }),
    },
  ];
}

const considerTravel = (room: string, { rooms }: HarborState): readonly Command[] => {
  const run = runOf(rooms.byId.get(room));
  return run === null ? [] : [{ do: "travel.consider", run }];
};

/** Who did not leave by itself is told why it stands in the lobby again. */
function because({ room, reason, by = "operator", why }: Extract<HarborEvent, { kind: "room.departed" }>): {
  because?: OutOfRoom;
} {
  if (reason === "late") return { because: { room, cause: reason } };
  if (reason !== "put-out" && reason !== "closed") return {};
  return { because: { room, cause: reason, by, ...(why !== undefined && { why }) } };
}
