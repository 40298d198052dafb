import { accept, type Decision, nothingToDo, type RoomsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { PlayerCommand } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Player } from "../model/players/state.ts";
import type { Done, WelcomeState } from "../model/replies.ts";
import { newId } from "../model/stamp.ts";
import type { RoomsPart } from "../model/state.ts";
import { stateFor } from "./view.ts";

type Doing<K extends PlayerCommand["do"]> = Extract<PlayerCommand, { do: K }>;

export const decidePlayer = decideBy<PlayerCommand, RoomsPart>({
  "player.connect": connect,
  "player.resume": resume,
  "player.measure": ({ state }, { player, latency }) =>
    state.players.byId.has(player) ? accept([{ kind: "player.measured", player, latency }]) : nothingToDo,
  "player.lose": lose,
  "player.give-up": giveUp,
  "player.leave": leave,
  "player.kick": kick,
});

function connect({ state, rules, random }: RoomsContext, command: Doing<"player.connect">): Decision<WelcomeState> {
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
  const player = newId("p", random);
  const { name, build, connection } = command;
  const leaving = makesWay === undefined ? [] : [leftEvent(makesWay, "lost")];
  return accept([...leaving, { kind: "player.connected", player, name, build, lobby, connection }], {
    reply: (after) => stateFor(after, player),
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
  { state }: RoomsContext,
  { player: id, connection, heard }: Doing<"player.resume">,
): Decision<WelcomeState> {
  const player = state.players.byId.get(id);
  if (player === undefined) {
    return refuse(
      "player-unknown",
      "The player of this token has left, or was away for too long; say hello with a name instead.",
    );
  }
  // Also for a player who is here: the second connection takes over, and the loss of the first no longer counts.
  return accept([{ kind: "player.resumed", player: id, connection }], {
    reply: (after) => stateFor(after, id, heard),
  });
}

function lose({ state, rules, at }: RoomsContext, { player: id, connection }: Doing<"player.lose">): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined || player.connection !== connection) return nothingToDo;
  const room = player.room === null ? undefined : state.rooms.byId.get(player.room);
  return accept([{ kind: "player.lost", player: id, untilMs: at + (room?.policy.graceMs ?? rules.players.graceMs) }]);
}

function giveUp({ state }: RoomsContext, { player: id }: Doing<"player.give-up">): Decision {
  const player = state.players.byId.get(id);
  if (player === undefined || player.presence === "here") return nothingToDo;
  return accept([leftEvent(player, "lost")]);
}

function leave({ state }: RoomsContext, { player: id }: Doing<"player.leave">): Decision<Done> {
  const player = state.players.byId.get(id);
  if (player === undefined) return accept([], { reply: () => ({}) });
  return accept([leftEvent(player, "left")], { reply: () => ({}) });
}

function kick({ state }: RoomsContext, { player: id, reason }: Doing<"player.kick">): Decision<Done> {
  const player = state.players.byId.get(id);
  if (player === undefined)
    return refuse("player-unknown", `There is no player ${id}; it has left, or was away for too long.`);
  const detail = `An operator kicked you${reason === undefined ? "" : `: ${reason}`}.`;
  return accept([leftEvent(player, "kicked")], {
    reply: () => ({}),
    effects: [{ effect: "end-connection", player: id, code: "kicked", detail }],
  });
}

function leftEvent({ id, name, lobby, room }: Player, reason: "left" | "lost" | "kicked"): PlayerEvent {
  return { kind: "player.left", player: id, name, reason, lobby, room };
}
