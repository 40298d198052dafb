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
  "player.left": ({ player, reason, lobby, room }) => [
    { do: "lobby.step-out", lobby, player, reason },
    ...(room === null ? [] : [{ do: "room.depart", room, player, reason } as const]),
  ],

  // Lobby and room: a player stands in exactly one of them.
  "room.opened": ({ lobby, host }) => [{ do: "lobby.step-out", lobby, player: host, reason: "into-room" }],
  "room.joined": ({ player }, state) => {
    const known = state.players.byId.get(player);
    return known === undefined ? [] : [{ do: "lobby.step-out", lobby: known.lobby, player, reason: "into-room" }];
  },
  "room.departed": (event, state) => {
    const { room: id, player, name, reason, why } = event;
    const room = state.rooms.byId.get(id);
    const run = room?.run;
    const known = state.players.byId.get(player);
    return [
      ...(known
        ? [
            {
              do: "lobby.stand",
              lobby: known.lobby,
              player,
              name,
              presence: known.presence,
              ...because(event),
            } as const,
          ]
        : []),
      { do: "room.consider", room: id },
      { do: "pool.free-berth", room: id, player },
      ...(run ? [{ do: "travel.forget", run, player } as const] : []),
      ...(reason === "closed" ? [{ do: "room.dissolve", room: id, reason: why } as const] : []),
      // Last of all, and only for the last one to go: what else follows from the departure still needs the room.
      ...(room?.members.size === 0 ? [{ do: "room.close", room: id } as const] : []),
    ];
  },

  // What start depends on: a count may have to stop, and a room that starts by itself may be complete.
  "room.ready-set": ({ room }) => [{ do: "room.consider", room }],
  "room.level-picked": ({ room }) => [{ do: "room.consider", room }],
  "room.member-away": ({ room }) => [{ do: "room.consider", room }],
  "room.member-back": ({ room }) => [{ do: "room.consider", room }],

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
  "instance.reported": ({ room, run, standings, note }) => [{ do: "room.set-result", room, run, standings, note }],

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
