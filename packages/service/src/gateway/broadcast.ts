import type { Harbor } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, problem } from "@yellow-harbor/protocol";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { Allowance } from "./allowance.ts";
import type { Connection } from "./connection.ts";
import type { Answer } from "./dispatch.ts";
import { Frame } from "./framing.ts";

/** What is needed to pass something on that is no state. */
export interface Broadcast {
  readonly harbor: Harbor;
  readonly connectionOf: (player: PlayerId) => Connection | undefined;
  /** Of who says it. */
  readonly allowance: Allowance;
}

const CHAT_AT_ONCE = 5;

/** Says something to everybody in the player's lobby: encoded once, past the journal. */
export function chat(
  { text }: PlayerArgs<"lobby.chat">,
  from: PlayerId,
  { harbor, connectionOf, allowance }: Broadcast,
): Answer {
  const { players, lobbies } = harbor.state;
  const player = players.byId.get(from);
  const lobby = lobbies.byId.get(player?.lobby ?? "");
  if (player === undefined || lobby === undefined || !lobby.standing.has(from)) {
    return { refused: problem("wrong-phase", "You are in no lobby; to speak in a room use room.relay.") };
  }
  const limits = harbor.rules.lobbies.get(lobby.id)?.chat ?? null;
  if (limits === null) return { refused: problem("chat-off", `People do not chat in ${lobby.id}; chat in a room.`) };
  const now = steadyMs();
  allowance.chat ??= new RateLimit(limits.perSecond, CHAT_AT_ONCE, now);
  if (!allowance.chat.take(now)) {
    const pace = `${limits.perSecond} a second on average, ${CHAT_AT_ONCE} at once`;
    return { refused: problem("chat-too-fast", `More than ${pace}; wait a moment.`) };
  }
  const frame = new Frame(JSON.stringify({ frame: "chat", lobby: lobby.id, from, name: player.name, text }));
  return { reply: { delivered: sendTo(lobby.standing.keys(), frame, connectionOf) } };
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
