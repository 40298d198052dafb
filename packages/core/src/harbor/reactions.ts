import type { PlayerId } from "@yellow-harbor/protocol";
import type { Command } from "../model/command.ts";
import type { Consequence } from "../model/consequence.ts";
import type { EventKind, HarborEvent } from "../model/event.ts";
import { runOf } from "../model/find-room.ts";
import { matchesOf, matchWith } from "../model/pools/holds.ts";
import type { HarborState } from "../model/state.ts";
import {
  assignWaitingMatches,
  considerBuild,
  drainMachine,
  drainVersions,
  loseInstance,
} from "./consequences/instance.ts";
import { becomeRoom, startMatch, undoMatch } from "./consequences/match.ts";
import { showJoined, showNewSides } from "./consequences/private-entries.ts";
import {
  comeAlong,
  considerTravel,
  departed,
  freeInWorld,
  letLookOn,
  prepare,
  rejoin,
  showAttributes,
} from "./consequences/room.ts";

/** Where each of so many is to be: those of the regions first, the others anywhere. */
const regionsOf = (launch: number, launchIn: Readonly<Record<string, number>>): (string | undefined)[] => {
  const named = Object.entries(launchIn).flatMap(([region, many]) => Array.from({ length: many }, () => region));
  return Array.from({ length: launch }, (_, n) => named[n]);
};

const playersOf = (many: readonly { readonly player: PlayerId }[]): PlayerId[] => many.map(({ player }) => player);

type Reaction<K extends EventKind> = (
  event: Extract<HarborEvent, { kind: K }>,
  state: HarborState,
) => readonly (Command | Consequence)[];

/**
 * What is to be done next, each decided in its turn. Read it from top to bottom: a player comes, gathers, travels, plays,
 * and is let go of.
 */
const reactions: { readonly [K in EventKind]?: Reaction<K> } = {
  // What waits for its members, or starts by itself with them.
  "harbor.recovered": (_event, state) => [
    ...[...state.rooms.byId.values()]
      .filter(({ stage: { phase }, policy }) => phase === "counting" || (phase === "gathering" && policy.autoStart))
      .map(({ id }) => ({ do: "room.consider", room: id }) as const),
    ...[...state.travels.byRun.keys()].map((run) => ({ do: "travel.consider", run }) as const),
  ],

  // Coming and going.
  "player.connected": ({ player, name, lobby }) => [{ do: "lobby.join", lobby, player, name, presence: "here" }],
  "player.lost": ({ player, untilMs }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    const inParty: Command = { do: "party.check-member", player };
    return known.room === null
      ? [{ do: "lobby.mark-away", lobby: known.lobby, player }, { do: "queue.check-presence", player }, inParty]
      : [{ do: "room.mark-away", room: known.room, player, untilMs }, inParty];
  },
  "player.resumed": ({ player }, state) => {
    const known = state.players.byId.get(player);
    if (known === undefined) return [];
    const inParty: Command = { do: "party.check-member", player };
    return known.room === null
      ? [{ do: "lobby.mark-back", lobby: known.lobby, player }, { do: "queue.check-presence", player }, inParty]
      : [{ do: "room.mark-back", room: known.room, player }, inParty];
  },
  "player.lobby-switched": ({ player, from, lobby, by }, state) => {
    const { name = player, presence = "here" } = state.players.byId.get(player) ?? {};
    return [
      { do: "lobby.leave", lobby: from, player, reason: "left" },
      { do: "lobby.join", lobby, player, name, presence, moved: by === "operator" },
    ];
  },
  "player.attributes-set": ({ player }, state) => showAttributes(player, state),
  "player.identified": ({ player }, state) => showAttributes(player, state),
  "player.measured": ({ player, latency }, state) => {
    const room = state.players.byId.get(player)?.room;
    return room == null ? [] : [{ do: "room.measure", room, player, latency }];
  },
  "player.left": ({ player, reason, lobby, room }) => [
    { do: "party.drop-player", player },
    { do: "queue.drop-player", player, cause: "player-left" },
    { do: "lobby.leave", lobby, player, reason },
    ...(room === null ? [] : [{ do: "room.depart", room, player, reason } as const]),
  ],

  "ban.set": ({ ban }, state) => {
    const player = "account" in ban ? state.players.byAccount.get(ban.account) : undefined;
    return player === undefined ? [] : [{ do: "player.kick", player, reason: undefined, ban }];
  },

  // Parties: who leaves one searches with it no more, and who follows goes along.
  "party.joined": ({ party }) => [{ do: "party.check-leader", party }],
  "party.member-changed": ({ party }) => [{ do: "party.check-leader", party }],
  "party.left": ({ party, player, cause }) => [{ do: "queue.leave-party", player, party, cause }],
  "party.called": ({ room, players }) => players.map((player) => ({ do: "room.come-along", room, player }) as const),

  // Lobby and room: a player is in exactly one of them.
  "room.opened": ({ room, lobby, host, match }) => [
    { do: "queue.drop-player", player: host, cause: "went-elsewhere" },
    ...[host, ...(match?.others ?? []).map(({ id }) => id)].map(
      (player) => ({ do: "lobby.leave", lobby, player, reason: "into-room" }) as const,
    ),
    ...[host, ...(match?.others ?? []).map(({ id }) => id)].map(
      (player) => ({ do: "party.check-member", player }) as const,
    ),
    ...(match ? [startMatch(room)] : []),
  ],
  "room.joined": ({ room: id, player, name, place, match }, state) => {
    const known = state.players.byId.get(player);
    const run = runOf(state.rooms.byId.get(id));
    return [
      { do: "queue.drop-player", player, cause: "went-elsewhere" },
      ...(known ? [{ do: "lobby.leave", lobby: known.lobby, player, reason: "into-room" } as const] : []),
      { do: "party.check-member", player },
      ...showJoined(state, id, player),
      ...(run ? comeAlong(id, run, { id: player, name, place }, true) : []),
      ...(match === undefined ? [] : [{ do: "queue.players-joined", match } as const]),
      { do: "room.check-host", room: id },
      { do: "room.check-turn", room: id },
      { do: "room.consider", room: id },
    ];
  },
  "room.watched": ({ room, lobby, player }, state) => {
    const run = runOf(state.rooms.byId.get(room));
    return [
      { do: "queue.drop-player", player, cause: "went-elsewhere" },
      { do: "lobby.leave", lobby, player, reason: "into-room" },
      { do: "party.check-member", player },
      ...(run === null ? [] : letLookOn(room, run, player)),
    ];
  },
  "room.unwatched": (event, state) => {
    const { room, player, reason } = event;
    return [
      ...(reason === "joined" ? [] : rejoin(event, state)),
      { do: "pool.free-berth", room, player },
      ...freeInWorld(room, player, state),
      { do: "party.check-member", player },
    ];
  },
  "room.departed": departed,

  // What start depends on: a count may have to stop, and a room that starts by itself may be complete.
  "room.ready-set": ({ room }) => [{ do: "room.consider", room }],
  "room.level-picked": ({ room }) => [{ do: "room.consider", room }],
  "room.settings-changed": ({ room }) => [
    { do: "room.consider", room },
    { do: "pool.tell-match", room },
  ],
  "room.moved": ({ room, player }, state) => [
    ...showNewSides(state, room, [player]),
    { do: "room.consider", room },
    { do: "pool.tell-match", room },
  ],
  "room.swapped": ({ room, players }, state) => [
    ...showNewSides(state, room, players),
    { do: "room.consider", room },
    { do: "pool.tell-match", room },
  ],
  "room.member-described": ({ room }) => [{ do: "pool.tell-match", room }],
  "room.balanced": ({ room, moved }, state) => [
    ...showNewSides(state, room, playersOf(moved)),
    { do: "room.consider", room },
    { do: "pool.tell-match", room },
  ],
  "room.host-changed": ({ room }) => [{ do: "pool.tell-match", room }],
  "room.gathered": ({ room }) => [{ do: "room.consider", room }],

  // Who is away loses its turn, and in time the powers; who is back takes them up when nobody else could.
  "room.member-away": ({ room }, state) => [
    { do: "room.consider", room },
    { do: "room.check-turn", room },
    ...considerTravel(room, state),
  ],
  "room.background-set": ({ room }, state) => considerTravel(room, state),
  "room.voted": ({ room }) => [{ do: "room.consider", room }],
  "room.member-back": ({ room: id, player }, state) => {
    const room = state.rooms.byId.get(id);
    const member = room?.members.get(player);
    const run = runOf(room);
    return [
      ...(run && member ? comeAlong(id, run, member, false) : []),
      { do: "room.check-host", room: id },
      { do: "room.check-turn", room: id },
      { do: "room.consider", room: id },
    ];
  },

  // Start: the room travels, the travel needs a destination; where that is an instance, the instance needs the match.
  "room.started": ({ room, run, request: { members: travellers, level, pool, options, stragglers } }) => [
    { do: "travel.call", room, run, level, pool, options, stragglers, travellers },
  ],
  "travel.called": ({ run }, state) => prepare(run, state),
  "travel.retried": ({ run }, state) => prepare(run, state),
  // A pass is an order to the instance, which alone can let somebody in by it.
  "travel.pass-requested": ({ room, run, player }, state) =>
    state.rooms.byId.get(room)?.spectators.has(player.id)
      ? [{ do: "pool.add-spectator", room, run, player: player.id }]
      : [{ do: "pool.add-berth", room, run, player, anew: true, always: true }],
  "travel.rerouted": ({ run, room }, state) => [
    { do: "pool.release", room, reason: "its room goes another way" },
    { do: "travel.close-world", room },
    ...prepare(run, state),
  ],
  "instance.allocated": ({ instance }, state) => assignWaitingMatches(instance, state),
  "instance.opened": ({ instance }, state) => [
    ...assignWaitingMatches(instance, state),
    ...considerBuild(instance, state),
  ],
  "instance.acknowledged": ({ instance: id, acknowledged }, state) => {
    const instance = state.pools.instances.get(id);
    if (instance === undefined) return [];
    return matchesOf(instance)
      .filter(({ instruction }) => instruction <= acknowledged)
      .map(({ run }) => ({ do: "travel.instance-ready", run, instance: id, address: instance.address }) as const);
  },

  // One that knows nothing of us takes no instructions: it has the match as soon as it is to have it.
  "instance.assigned": ({ instance: id, match: { run } }, state) => {
    const instance = state.pools.instances.get(id);
    if (!instance?.isWatched) return [];
    return [{ do: "travel.instance-ready", run, instance: id, address: instance.address }];
  },

  // A match becomes a room, which starts at once; whatever fails on the way puts its players back where they searched.
  "queue.matched": ({ match, confirmByMs }, state) => (confirmByMs === undefined ? becomeRoom(match, state) : []),
  "queue.confirmed": ({ match }, state) => becomeRoom(match, state),
  "queue.match-started": ({ queue, match, room }) => [{ do: "rating.watch", queue, match, room }],
  "room.playing": ({ room, run }, state) => [
    { do: "queue.room-playing", room },
    ...[...(state.rooms.byId.get(room)?.spectators.keys() ?? [])].flatMap((player) => letLookOn(room, run, player)),
  ],
  "queue.room-ended": ({ room, why }) => [{ do: "room.dissolve", room, reason: why, by: "operator" }],

  // What the planner has decided is carried out one by one.
  "plan.made": ({ pool, launch, launchIn = {}, retire, back = [], why }) => [
    ...back.map((id) => ({ do: "pool.reclaim", id, why: `planned: ${why}` }) as const),
    ...regionsOf(launch, launchIn).map(
      (region) => ({ do: "pool.launch-ahead", pool, why: `planned: ${why}`, region }) as const,
    ),
    ...retire.map((id) => ({ do: "pool.retire", id, why: `planned: ${why}` }) as const),
  ],

  // Arrival, and the run itself.
  "instance.boarded": ({ run, player }) => [{ do: "travel.mark-arrived", run, player }],
  "instance.unboarded": ({ instance: id, player, run: own, kick }, state) => {
    const instance = state.pools.instances.get(id);
    const run = own ?? (instance && matchWith(instance, player)?.run);
    return [
      ...(run === undefined ? [] : [{ do: "travel.mark-ashore", run, player } as const]),
      ...(kick === undefined
        ? []
        : [{ do: "room.instance-kick", room: kick.room, player, reason: kick.why, ban: kick.ban } as const]),
    ];
  },
  "travel.completed": ({ room, run, destination, late = [], without = [] }, state) => [
    { do: "room.play", room, run, destination },
    ...late.map((player) => ({ do: "room.depart", room, player, reason: "late" }) as const),
    ...(without.length > 0 ? [{ do: "pool.start-match", room, run, without } as const] : []),
    ...without.flatMap((player) => {
      const member = state.rooms.byId.get(room)?.members.get(player);
      return member?.presence === "here" ? comeAlong(room, run, member, true) : [];
    }),
    ...(destination.by === "dedicated"
      ? []
      : [{ do: "pool.release", room, reason: "its room plays elsewhere" } as const]),
    { do: "pool.release-former", room },
  ],
  "instance.reported": ({ kind: _, instance, room, run, ...outcome }, state) => [
    { do: "room.record-result", room, run, outcome },
    ...considerBuild(instance, state),
  ],
  "room.result-set": ({ room, run, standings, swapped = [] }, state) => [
    ...showNewSides(state, room, playersOf(swapped)),
    { do: "rating.settle", room, standings },
    { do: "queue.stop-backfill", room, why: "the match is over" },
    { do: "pool.end-match", room, run, reason: "its result is set" },
    { do: "travel.close-world", room },
  ],

  // What ends before its time.
  "travel.failed": ({ room, run, code, detail, aborted }) => [
    { do: "room.return", room, run, code, detail, aborted },
    { do: "pool.release", room, reason: "the travel it was allocated for was aborted or failed" },
    { do: "pool.release-former", room },
  ],
  "room.returned": ({ room, run, code, detail }, state) => [
    // Its instance is there and plays on: it is told that it need not.
    ...(code === "result-overdue" || code === "run-ended"
      ? [{ do: "pool.end-match", room, run, reason: detail } as const]
      : []),
    { do: "queue.stop-backfill", room, why: "the match is over" },
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
  "instance.stop-requested": ({ rooms = [], reason, instance }, state) =>
    rooms.flatMap((room) => loseInstance(room, instance, `was told to stop: ${reason}`, state)),
  "instance.returned": ({ instance }) => [{ do: "pool.stop-if-done", id: instance }],

  // A new version takes over, or does not: whatever runs of the other takes no new room, and stops when it may.
  "build.promoted": ({ line, version }, state) =>
    drainVersions(line, (other) => other !== version, `${version} has taken over`, state),
  "build.rolled-back": ({ line, version }, state) =>
    drainVersions(line, (other) => other === version, `${version} was rolled back`, state),
  "build.added": ({ line, version, rollOut }, state) =>
    rollOut === null ? drainVersions(line, (other) => other !== version, `${version} has taken over`, state) : [],

  // What ran on a machine that is gone for good has ended with it.
  "machine.removed": ({ machine }, state) =>
    [...state.pools.instances.values()]
      .filter((one) => one.machine === machine && !one.gone)
      .map(({ id }) => ({ do: "instance.exited", instance: id, exitCode: null, signal: null }) as const),

  // What runs on a machine that is to be emptied.
  "machine.mode-set": ({ machine, mode, why, untilMs }, state) =>
    mode === "draining" ? drainMachine(machine, { why: `machine ${machine} is ${why}`, untilMs }, state) : [],

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
