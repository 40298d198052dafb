import {
  type ConfigName,
  isDevice,
  type PlayerId,
  type PlayerReply,
  type ProblemCode,
  type SetRelations,
} from "@yellow-harbor/protocol";
import { bans } from "../bans/index.ts";
import { lobbies } from "../lobbies/index.ts";
import { accept, type Decision, nothingToDo, type Refusal, type RoomsContext, refuse } from "../model/decision.ts";
import { decideBy } from "../model/handlers.ts";
import type { Caller, PlayerCommand, UsedToken } from "../model/players/commands.ts";
import type { PlayerEvent } from "../model/players/events.ts";
import type { Identity, Player } from "../model/players/state.ts";
import type { Done, WelcomeState } from "../model/replies.ts";
import { newId } from "../model/stamp.ts";
import type { RoomsPart } from "../model/state.ts";
import { relations } from "../relations/index.ts";
import { setAttributes } from "./decide-attributes.ts";
import { report } from "./decide-report.ts";
import { nameSkeleton } from "./skeleton.ts";
import { stateFor } from "./view.ts";

type Doing<K extends PlayerCommand["do"]> = Extract<PlayerCommand, { do: K }>;

export const decidePlayer = decideBy<PlayerCommand, RoomsPart>({
  "player.connect": connect,
  "player.resume": resume,
  "player.measure": ({ state }, { player, latency }) =>
    state.players.byId.has(player) ? accept([{ kind: "player.measured", player, latency }]) : nothingToDo,
  "player.set-attributes": setAttributes,
  "player.switch-lobby": switchLobby,
  "player.move-to-lobby": moveToLobby,
  "player.report": report,
  "player.lose": lose,
  "player.give-up": giveUp,
  "player.leave": leave,
  "player.kick": kick,
});

function connect(context: RoomsContext, command: Doing<"player.connect">): Decision<WelcomeState> {
  const { state, rules, random } = context;
  const { name, build, connection, identity, origin, token, relations: told } = command;
  const unwelcome = unwelcomed(context, command);
  if (unwelcome) return unwelcome;
  const known = identity && state.players.byId.get(state.players.byAccount.get(identity.account) ?? "");
  if (known) return comeAgain(context, known, command);
  // Whoever is away and has begun nothing makes way for somebody who is here.
  const isFull = state.players.byId.size >= rules.players.limit;
  const makesWay = isFull ? idleAway(state) : undefined;
  if (isFull && makesWay === undefined) {
    return refuse("harbor-full", `All ${rules.players.limit} player places are taken; try again in a minute.`);
  }
  const place = lobbyFor(context, command);
  if ("refused" in place) return place;
  if (name === "") {
    return refuse("name-needed", "The hello has no name, and the account token has none either; give one in name.");
  }
  const player = newId("p", random);
  const leaving = makesWay === undefined ? [] : [leftEvent(makesWay, "lost")];
  const who = { ...(identity && { identity }), ...(origin !== undefined && { origin }), ...(token && { token }) };
  const connected: PlayerEvent = { kind: "player.connected", player, name, build, connection, ...place, ...who };
  return accept([...leaving, connected, ...relationsTold(state, player, told)], {
    reply: (after) => stateFor(after, player, { resumed: false }),
  });
}

/** The account is that of a player who is known: the same player, by another connection. */
function comeAgain(
  { state, rules }: RoomsContext,
  known: Player,
  { connection, identity, token, relations: told }: Doing<"player.connect">,
): Decision<WelcomeState> {
  if (known.presence === "here" && rules.players.sameAccount === "refuse" && !isDevice(identity?.account ?? "")) {
    const detail = `Account ${identity?.account} is in use by another connection; close that one first.`;
    return refuse("account-in-use", detail);
  }
  const said = [...changedIdentity(known, identity, token), ...relationsTold(state, known.id, told)];
  return accept([{ kind: "player.resumed", player: known.id, connection }, ...said], {
    reply: (after) => stateFor(after, known.id, { resumed: true }),
  });
}

/** By an operator: for the same reasons as the player itself. */
function moveToLobby(context: RoomsContext, { player, lobby }: Doing<"player.move-to-lobby">): Decision<Done> {
  const decision = switchLobby(context, { do: "player.switch-lobby", player, args: { lobby } });
  const name = context.state.players.byId.get(player)?.name ?? "The player";
  if ("refused" in decision) {
    const { code, detail, accepted } = decision.refused;
    return refuse(code, movedWords[code]?.(name) ?? detail, { ...(accepted && { accepted }) });
  }
  const by = "operator" as const;
  const events = decision.events.map((one) => (one.kind === "player.lobby-switched" ? { ...one, by } : one));
  return accept(events, { reply: () => ({}) });
}

const movedWords: { readonly [C in ProblemCode]?: (name: string) => string } = {
  "player-unknown": () => "There is no such player; it has left.",
  "already-in-room": (name) => `${name} is in a room; kick it from there first, then move it.`,
  "already-searching": (name) => `${name} searches in its lobby, and has to cancel that first.`,
  "already-in-party": (name) => `${name} is in a party of its lobby, and has to leave that first.`,
};

/** Goes to another lobby as the same player, where nothing holds it in this one. */
function switchLobby(
  context: RoomsContext,
  { player: id, args }: Doing<"player.switch-lobby">,
): Decision<PlayerReply<"player.switch-lobby">> {
  const { state } = context;
  const player = state.players.byId.get(id);
  if (player === undefined) return refuse("player-unknown", "The player has left; connect again.");
  const reply = (after: RoomsPart) => ({ lobby: lobbies.views.lobby(after, args.lobby) });
  if (player.lobby === args.lobby && player.room === null) return accept([], { reply });
  if (player.room !== null) return refuse("already-in-room", "You are in a room; leave it, then change the lobby.");
  if (state.seen.queues.isSearching(id)) {
    return refuse("already-searching", "You are searching in this lobby; cancel that first with queue.cancel.");
  }
  if (state.parties.byPlayer.has(id)) {
    return refuse("already-in-party", "Your party is of this lobby; leave it first with party.leave.");
  }
  const { name, identity, lobby: from } = player;
  const place = lobbyFor(context, { lobby: args.lobby, name, identity: identity ?? undefined });
  if ("refused" in place) return place;
  return accept([{ kind: "player.lobby-switched", player: id, from, ...place }], { reply });
}

/** Whom it knows and has blocked, where its token says so. */
const relationsTold = (state: RoomsPart, player: PlayerId, told: SetRelations | undefined) =>
  told === undefined ? [] : relations.told(state, player, told);

/** What is vouched for now, when it is other than before, or when its token must not be used again. */
function changedIdentity(player: Player, identity: Identity | undefined, token: UsedToken | undefined): PlayerEvent[] {
  if (identity === undefined) return [];
  if (token === undefined && JSON.stringify(player.identity) === JSON.stringify(identity)) return [];
  return [{ kind: "player.identified", player: player.id, identity, ...(token && { token }) }];
}

/** Why nobody may come so: banned, or with a token that was used already. */
function unwelcomed(context: RoomsContext, { identity, token, from }: Caller): Refusal | undefined {
  const { state, at } = context;
  const usedUntilMs = token === undefined ? undefined : state.players.usedTokens.get(token.id);
  if (usedUntilMs !== undefined && usedUntilMs > at) {
    return refuse("account-token-used", "The account token was used already; get a new one from the game's back end.");
  }
  return bans.refusal(context, identity, from);
}

/** The lobby that somebody may be in, or why not. */
function lobbyFor(
  { state, rules }: RoomsContext,
  { lobby: wanted, identity, name }: Pick<Doing<"player.connect">, "lobby" | "identity" | "name">,
): { readonly lobby: ConfigName; readonly uniqueName?: string } | Refusal {
  const lobbies = [...rules.lobbies.keys()];
  const id = wanted ?? lobbies[0];
  const lobby = id === undefined ? undefined : rules.lobbies.get(id);
  if (id === undefined || lobby === undefined) {
    const detail = `There is no lobby ${wanted}; the lobbies are ${lobbies.join(", ")}.`;
    return refuse("lobby-unknown", detail, { accepted: lobbies });
  }
  if (!lobby.guests && (identity === undefined || isDevice(identity.account))) {
    const detail = `Lobby ${id} lets no guests in; say hello with an account token of the game.`;
    return refuse("account-needed", detail);
  }
  const uniqueName = lobby.uniqueNames ? `${id} ${nameSkeleton(name)}` : undefined;
  if (uniqueName !== undefined && state.players.uniqueNames.has(uniqueName)) {
    const detail = `Another player of lobby ${id} has this name, or one that looks like it; take another.`;
    return refuse("name-taken", detail);
  }
  return { lobby: id, ...(uniqueName !== undefined && { uniqueName }) };
}

/** The player known longest of those who are away, in no room and not searching. */
function idleAway({ players, seen }: RoomsPart): Player | undefined {
  for (const player of players.byId.values()) {
    if (player.presence === "away" && player.room === null && !seen.queues.isSearching(player.id)) return player;
  }
  return undefined;
}

function resume(context: RoomsContext, command: Doing<"player.resume">): Decision<WelcomeState> {
  const { state } = context;
  const { player: id, connection, heard, shown, identity, token, relations: told } = command;
  const player = state.players.byId.get(id);
  if (player === undefined) {
    return refuse(
      "player-unknown",
      "The player of this token has left, or was away for too long; say hello with a name instead.",
    );
  }
  if (shown !== undefined && shown < player.resume.shown) {
    const detail = "The resume token was replaced by a newer one, which was used; show that of the newest welcome.";
    return refuse("token-invalid", detail);
  }
  const unwelcome = unwelcomed(context, { ...command, identity: identity ?? player.identity ?? undefined });
  if (unwelcome) return unwelcome;
  const conflict = identity && accountConflict(state, player, identity);
  if (conflict) return conflict;
  const resumed: PlayerEvent = {
    kind: "player.resumed",
    player: id,
    connection,
    ...(shown !== undefined && { shown }),
  };
  // Also for a player who is here: the second connection takes over, and the loss of the first no longer counts.
  return accept([resumed, ...changedIdentity(player, identity, token), ...relationsTold(state, id, told)], {
    reply: (after) => stateFor(after, id, { resumed: true, heard }),
  });
}

/** Why a player cannot become an account. */
function accountConflict({ players }: RoomsPart, player: Player, { account }: Identity): Refusal | undefined {
  const own = player.identity?.account;
  if (own === account) return undefined;
  if (own !== undefined && !isDevice(own)) {
    return refuse(
      "account-differs",
      `The player belongs to account ${own}; leave the resume token out to come as ${account}.`,
    );
  }
  if (!players.byAccount.has(account)) return undefined;
  const detail = `Account ${account} has a player already; leave the resume token out to take that one up.`;
  return refuse("account-in-use", detail);
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

function kick({ state, at }: RoomsContext, { player: id, reason, ban }: Doing<"player.kick">): Decision<Done> {
  const player = state.players.byId.get(id);
  if (player === undefined)
    return refuse("player-unknown", `There is no player ${id}; it has left, or was away for too long.`);
  const detail = ban ? bans.detail(ban, at) : `An operator kicked you${reason === undefined ? "" : `: ${reason}`}.`;
  return accept([leftEvent(player, "kicked")], {
    reply: () => ({}),
    effects: [{ effect: "end-connection", player: id, code: ban ? "banned" : "kicked", detail }],
  });
}

function leftEvent({ id, name, lobby, room }: Player, reason: "left" | "lost" | "kicked"): PlayerEvent {
  return { kind: "player.left", player: id, name, reason, lobby, room };
}
