import { type Harbor, isDeafTo, knows, type Player } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, type Problem, problem } from "@yellow-harbor/protocol";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { Allowance } from "./allowance.ts";
import type { Connection } from "./connection.ts";
import type { Answer } from "./dispatch.ts";
import { Frame } from "./framing.ts";
import type { SaidLately } from "./said-lately.ts";

/** What is needed to pass something on that is no state. */
export interface Broadcast {
  readonly harbor: Harbor;
  readonly connectionOf: (player: PlayerId) => Connection | undefined;
  /** Of who says it. */
  readonly allowance: Allowance;
  readonly said: SaidLately;
}

const AT_ONCE = 5;

interface Pace {
  readonly perSecond: number;
}

function tooFast(allowance: Allowance, of: "chat" | "messages", { perSecond }: Pace): Problem | undefined {
  const now = steadyMs();
  const limit = allowance[of] ?? new RateLimit(perSecond, AT_ONCE, now);
  allowance[of] = limit;
  if (limit.take(now)) return undefined;
  return problem("chat-too-fast", `More than ${perSecond} a second on average, ${AT_ONCE} at once; wait a moment.`);
}

type Lobby = NonNullable<ReturnType<Harbor["state"]["lobbies"]["byId"]["get"]>>;

/** The lobby that a player is in and may speak in, or why not. */
function lobbyOf(
  from: PlayerId,
  { harbor }: Broadcast,
): { readonly player: Player; readonly lobby: Lobby; readonly pace: Pace } | { readonly refused: Problem } {
  const { players, lobbies } = harbor.state;
  const player = players.byId.get(from);
  const lobby = lobbies.byId.get(player?.lobby ?? "");
  if (player === undefined || lobby === undefined || !lobby.standing.has(from)) {
    return { refused: problem("wrong-phase", "You are in no lobby; to speak in a room use room.relay.") };
  }
  const pace = harbor.rules.lobbies.get(lobby.id)?.chat ?? null;
  if (pace === null) return { refused: problem("chat-off", `People do not chat in ${lobby.id}; chat in a room.`) };
  return { player, lobby, pace };
}

/** Why a player may not speak in its lobby now. What it is about to say counts from here on. */
export function whyNotChat(from: PlayerId, way: Broadcast): Problem | undefined {
  const found = lobbyOf(from, way);
  return "refused" in found ? found.refused : tooFast(way.allowance, "chat", found.pace);
}

/** Says something to everybody in the player's lobby: encoded once, past the journal. */
export function chat({ text }: PlayerArgs<"lobby.chat">, from: PlayerId, way: Broadcast): Answer {
  const found = lobbyOf(from, way);
  if ("refused" in found) return found;
  const { player, lobby } = found;
  const { harbor, connectionOf, said } = way;
  said.note(player, text, Date.now());
  const frame = new Frame(JSON.stringify({ frame: "chat", lobby: lobby.id, from, name: player.name, text }));
  // Who wants to hear nothing of the one who speaks counts all the same: nobody learns of it.
  const deaf = new Set([...lobby.standing.keys()].filter((id) => isDeafTo(harbor.state, id, player)));
  const all = lobby.standing.keys();
  const delivered = sendTo(deaf.size === 0 ? all : [...all].filter((id) => !deaf.has(id)), frame, connectionOf);
  return { reply: { delivered: delivered + [...deaf].filter((id) => connectionOf(id)).length } };
}

/** Who says something to whom alone, or why not. */
function pairOf(
  from: PlayerId,
  to: PlayerId,
  { harbor: { state, rules } }: Broadcast,
): { readonly player: Player; readonly pace: Pace } | { readonly refused: Problem } {
  const player = state.players.byId.get(from);
  const other = state.players.byId.get(to);
  if (player === undefined) return { refused: problem("player-unknown", "The player has left; connect again.") };
  const policy = rules.lobbies.get(player.lobby)?.directMessages ?? null;
  if (policy === null) {
    return { refused: problem("messages-off", `In ${player.lobby} nobody says anything to one player alone.`) };
  }
  if (from === to) return { refused: problem("not-yourself", "It is for somebody else; you know it already.") };
  if (other === undefined || other.lobby !== player.lobby) {
    return { refused: problem("player-unknown", `There is no player ${to} in your lobby or its rooms.`) };
  }
  const mayReach = policy.from === "anybody" || knows(state, to, player.identity?.account);
  if (!mayReach) return { refused: problem("not-friends", `${other.name} is sent messages by friends alone.`) };
  return { player, pace: policy };
}

/** Why a player may say nothing to another now. */
export function whyNotMessage(
  from: PlayerId,
  { to }: PlayerArgs<"player.message">,
  way: Broadcast,
): Problem | undefined {
  const found = pairOf(from, to, way);
  return "refused" in found ? found.refused : tooFast(way.allowance, "messages", found.pace);
}

/** Says something to one player alone. */
export function message({ to, text }: PlayerArgs<"player.message">, from: PlayerId, way: Broadcast): Answer {
  const found = pairOf(from, to, way);
  if ("refused" in found) return found;
  const { player } = found;
  const { harbor, connectionOf, said } = way;
  const connection = connectionOf(to);
  said.note(player, text, Date.now(), to);
  if (connection && !isDeafTo(harbor.state, to, player)) {
    connection.send(new Frame(JSON.stringify({ frame: "message", from, name: player.name, text })));
  }
  return { reply: { delivered: connection !== undefined } };
}

/** Sends an encoded frame to all of them who are connected. Returns how many those are. */
export function sendTo(
  players: Iterable<PlayerId>,
  frame: Frame,
  connectionOf: (player: PlayerId) => Connection | undefined,
): number {
  let delivered = 0;
  for (const player of players) {
    const connection = connectionOf(player);
    if (connection === undefined) continue;
    connection.send(frame);
    delivered += 1;
  }
  return delivered;
}
