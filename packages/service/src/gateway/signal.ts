import { type PlayerArgs, type PlayerId, problem } from "@yellow-harbor/protocol";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import type { Broadcast } from "./broadcast.ts";
import type { Answer } from "./dispatch.ts";
import { Frame } from "./framing.ts";

/**
 * Passes something to one member of the sender's room, that helps the two to connect directly. What it says is theirs; it is
 * bounded by the pair, so that no member can be kept busy by another.
 */
export function signal(
  { to, body }: PlayerArgs<"room.signal">,
  from: PlayerId,
  { harbor, connectionOf, allowance }: Broadcast,
): Answer {
  const { players, rooms } = harbor.state;
  const room = rooms.byId.get(players.byId.get(from)?.room ?? "");
  if (room === undefined || !room.members.has(from)) {
    return { refused: problem("not-in-room", "You are a member of no room; there is nobody to connect to.") };
  }
  const limits = room.policy.signals ?? null;
  if (limits === null) {
    return { refused: problem("signals-off", `In rooms of kind ${room.kind} members do not connect directly.`) };
  }
  if (from === to) return { refused: problem("not-yourself", "It is for another member.") };
  if (!room.members.has(to)) return { refused: problem("member-unknown", `${to} is not in room ${room.code}.`) };
  const now = steadyMs();
  const pairs = allowance.signals;
  // Who goes from room to room meets others: of those before nothing has to be remembered.
  if (pairs.room !== room.id) {
    pairs.room = room.id;
    pairs.to.clear();
  }
  const limit = pairs.to.get(to) ?? new RateLimit(limits.perPair / 60, limits.perPair, now);
  pairs.to.set(to, limit);
  if (!limit.take(now)) {
    const detail = `More than ${limits.perPair} signals to one member in a minute; wait a moment.`;
    return { refused: problem("relay-too-fast", detail) };
  }
  const text = JSON.stringify(body);
  const bytes = Buffer.byteLength(text);
  if (bytes > limits.bytes) {
    const detail = `The body has ${bytes} bytes of JSON; at most ${limits.bytes} are passed on.`;
    return { refused: problem("relay-too-large", detail) };
  }
  const connection = connectionOf(to);
  connection?.send(new Frame(`{"frame":"signal","room":"${room.id}","from":"${from}","body":${text}}`));
  return { reply: { delivered: connection !== undefined } };
}
