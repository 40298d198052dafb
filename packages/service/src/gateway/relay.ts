import { audienceOf, type Harbor } from "@yellow-harbor/core";
import {
  type PlayerArgs,
  type PlayerId,
  problem,
  type RelayBytes,
  type RelayTo,
  type RoomId,
  writeRelayedBytes,
} from "@yellow-harbor/protocol";
import { RateLimit } from "../front-door/rate-limit.ts";
import { steadyMs } from "../runtime/clock.ts";
import { type Broadcast, sendTo } from "./broadcast.ts";
import type { Answer } from "./dispatch.ts";
import { Frame } from "./framing.ts";

/**
 * Passes a message to members of the sender's room and to nobody else. What is relayed is not state: it takes no way
 * through the journal, is encoded once, and arrives in the order in which it came.
 */
export function relay({ to, body }: PlayerArgs<"room.relay">, from: PlayerId, way: Broadcast): Answer {
  const text = JSON.stringify(body);
  return pass({ to, from, bytes: Buffer.byteLength(text) }, way, (room) => {
    return `{"frame":"relayed","room":"${room}","from":"${from}","body":${text}}`;
  });
}

/** The same with a message that came in a binary frame, and goes out in one. */
export const relayBytes = ({ to, body }: RelayBytes, from: PlayerId, way: Broadcast): Answer =>
  pass({ to, from, bytes: body.length }, way, (room) => writeRelayedBytes({ room, from, body }));

interface Passing {
  readonly to: RelayTo;
  readonly from: PlayerId;
  readonly bytes: number;
}

function pass(
  { to, from, bytes }: Passing,
  { harbor, connectionOf, allowance }: Broadcast,
  contentIn: (room: RoomId) => string | Uint8Array,
): Answer {
  const { players, rooms } = harbor.state;
  const id = players.byId.get(from)?.room;
  const room = id == null ? undefined : rooms.byId.get(id);
  if (room === undefined)
    return { refused: problem("not-in-room", "You are in no room; there is nobody to relay to.") };
  if (!room.members.has(from)) {
    return { refused: problem("only-watching", `You only look on in room ${room.code}; its members relay.`) };
  }
  const limits = harbor.rules.roomKinds.get(room.kind)?.relay ?? { perSecond: 30, bytes: 1_024 };
  const now = steadyMs();
  allowance.relay ??= new RateLimit(limits.perSecond, limits.perSecond * 2, now);
  if (!allowance.relay.take(now)) {
    return {
      refused: problem(
        "relay-too-fast",
        `More than ${limits.perSecond} relayed messages a second; send fewer, or join several into one.`,
      ),
    };
  }
  if (bytes > limits.bytes) {
    return {
      refused: problem("relay-too-large", `The body has ${bytes} bytes; at most ${limits.bytes} are relayed.`),
    };
  }
  const receivers = receiversOf(room, from, to);
  if ("refused" in receivers) return receivers;
  return { reply: { delivered: sendTo(receivers.players, new Frame(contentIn(room.id)), connectionOf) } };
}

type Room = NonNullable<ReturnType<Harbor["state"]["rooms"]["byId"]["get"]>>;

function receiversOf(
  room: Room,
  from: PlayerId,
  to: RelayTo,
): { readonly players: Iterable<PlayerId> } | Extract<Answer, { refused: unknown }> {
  // Who looks on with a delay is shown nothing ahead of it.
  const all = room.policy.spectators?.delayMs === 0 ? audienceOf(room) : [...room.members.keys()];
  if (to === "all") return { players: all };
  const members = [...room.members.values()];
  if (to === "others") return { players: all.filter((id) => id !== from) };
  if (typeof to === "string") {
    if (room.members.has(to)) return { players: [to] };
    return { refused: problem("member-unknown", `${to} is not in room ${room.code}.`) };
  }
  const names = room.policy.sides?.names ?? [];
  if (!names.includes(to.side)) {
    const known = names.length === 0 ? "it has none" : `its sides are ${names.join(", ")}`;
    const accepted = [...names];
    return { refused: problem("side-unknown", `Room ${room.code} has no side ${to.side}; ${known}.`, { accepted }) };
  }
  return { players: members.filter(({ side }) => side === to.side).map(({ id }) => id) };
}
