import type { PlayerId } from "@yellow-harbor/protocol";
import { accept, assertNever, type Decision, nothingToDo, type RoomsMoment, refuse } from "../model/decision.ts";
import type { PlayerCommand } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Player } from "../model/players/state.ts";
import { newId } from "../model/stamp.ts";
import type { RoomsPart } from "../model/state.ts";
import { pictureFor } from "./view.ts";

export function decidePlayer(moment: RoomsMoment, command: PlayerCommand): Decision {
  switch (command.do) {
    case "player.enter":
      return enter(moment, command);
    case "player.resume":
      return resume(moment, command);
    case "player.measure": {
      const { player, latency } = command;
      return moment.state.players.byId.has(player)
        ? accept([{ kind: "player.measured", player, latency }])
        : nothingToDo;
    }
    case "player.lose":
      return lose(moment, command.player, command.connection);
    case "player.give-up":
      return giveUp(moment, command.player);
    case "player.leave":
      return leave(moment, command.player);
    case "player.put-out":
      return putOut(moment, command);
    default:
      return assertNever(command);
  }
}

function enter(
  { state, rules, chance }: RoomsMoment,
  command: Extract<PlayerCommand, { do: "player.enter" }>,
): Decision {
  // Whoever is away and has begun nothing makes way for somebody who is here.
  const isFull = state.players.byId.size >= rules.players.limit;
  const makesWay = isFull ? idleAway(state) : undefined;
  if (isFull && makesWay === undefined) {
    return refuse("harbor-full", `All ${rules.players.limit} player places are taken; try again in a minute.`);
  }
  const lobbies = [...rules.lobbies.keys()];
  const lobby = command.lobby ?? lobbies[0];
  if (lobby === undefined || !rules.lobbies.has(lobby)) {
    const detail = `There is no lobby ${command.lobby}; the lobbies are ${lobbies.join(", ")}.`;
    return refuse("lobby-unknown", detail, { accepted: lobbies });
  }
  const player = newId("p", chance);
  const { name, build, connection } = command;
  const leaving = makesWay === undefined ? [] : [leftEvent(makesWay, "lost")];
  return accept([...leaving, { kind: "player.entered", player, name, build, lobby, connection }], {
    reply: (after) => pictureFor(after, player),
  });
}

/** The player known longest of those who are away, in no room and not searching. */
function idleAway({ players, seen }: RoomsPart): Player | undefined {
  for (const player of players.byId.values()) {
    if (player.presence === "away" && player.room === null && !seen.queues.isSearching(player.id)) return player;
  }
  return undefined;
}

function resume(
  { state }: RoomsMoment,
  { player: id, connection, heard }: Extract<PlayerCommand, { do: "player.resume" }>,
): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined) {
    return refuse(
      "player-unknown",
      "The player of this token has left or was given up; say hello with a name instead.",
    );
  }
  // Also for a player who is here: the second connection takes over, and the loss of the first no longer counts.
  return accept([{ kind: "player.resumed", player: id, connection }], {
    reply: (after) => pictureFor(after, id, heard),
  });
}

function lose({ state, rules, at }: RoomsMoment, id: PlayerId, connection: number): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined || player.connection !== connection) return nothingToDo;
  const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
  return accept([{ kind: "player.lost", player: id, untilMs: at + (room?.ways.graceMs ?? rules.players.graceMs) }]);
}

function giveUp({ state }: RoomsMoment, id: PlayerId): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined || player.presence === "here") return nothingToDo;
  return accept([leftEvent(player, "lost")]);
}

function leave({ state }: RoomsMoment, id: PlayerId): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined) return nothingToDo;
  return accept([leftEvent(player, "left")], { reply: () => ({}) });
}

function putOut(
  { state }: RoomsMoment,
  { player: id, reason }: Extract<PlayerCommand, { do: "player.put-out" }>,
): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", `There is no player ${id}; it has left or was given up.`);
  const detail = `An operator has put you out${reason === undefined ? "" : `: ${reason}`}.`;
  return accept([leftEvent(player, "put-out")], {
    reply: () => ({}),
    effects: [{ effect: "end-connection", player: id, code: "put-out", detail }],
  });
}

function leftEvent({ id, name, lobby, room }: Player, reason: "left" | "lost" | "put-out"): PlayerEvent {
  return { kind: "player.left", player: id, name, reason, lobby, room };
}
