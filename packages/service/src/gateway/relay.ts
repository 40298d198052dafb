import type { Harbor } from "@yellow-harbor/core";
import { type PlayerArgs, type PlayerId, problem } from "@yellow-harbor/protocol";
import type { Connection } from "./connection.ts";
import type { Answer } from "./dispatch.ts";
import { frameText } from "./framing.ts";
import { RateLimit } from "./limits.ts";

export interface RelayWay {
  readonly harbor: Harbor;
  readonly connectionOf: (player: PlayerId) => Connection | undefined;
}

/**
 * Passes a message to members of the sender's room and to nobody else. What is relayed is not state: it takes no way
 * through the journal, is encoded once, and arrives in the order in which it came.
 */
export function relay(
  { to, body }: PlayerArgs<"room.relay">,
  from: PlayerId,
  sender: Connection,
  { harbor, connectionOf }: RelayWay,
): Answer {
  const { players, rooms } = harbor.state;
  const id = players.byId.get(from)?.room;
  const room = id == null ? undefined : rooms.byId.get(id);
  if (room === undefined)
    return { refused: problem("not-in-room", "You are in no room; there is nobody to relay to.") };
  const limits = harbor.rules.roomKinds.get(room.kind)?.relay ?? { perSecond: 30, bytes: 1_024 };
  const now = Date.now();
  sender.relayLimit ??= new RateLimit(limits.perSecond, limits.perSecond * 2, now);
  if (!sender.relayLimit.take(now)) {
    return {
      refused: problem(
        "relay-too-fast",
        `More than ${limits.perSecond} relayed messages a second; send fewer, or join several into one.`,
      ),
    };
  }
  const text = JSON.stringify(body);
  const bytes = Buffer.byteLength(text);
  if (bytes > limits.bytes) {
    return {
      refused: problem("relay-too-large", `The body has ${bytes} bytes of JSON; at most ${limits.bytes} are relayed.`),
    };
  }
  if (to !== "all" && to !== "others" && !room.members.has(to)) {
    return { refused: problem("member-unknown", `${to} is not in room ${room.code}.`) };
  }
  const frame = frameText(`{"frame":"relayed","room":"${room.id}","from":"${from}","body":${text}}`);
  let delivered = 0;
  for (const member of to === "all" || to === "others" ? room.members.keys() : [to]) {
    if (to === "others" && member === from) continue;
    const connection = connectionOf(member);
    if (connection === undefined) continue;
    connection.send(frame);
    delivered += 1;
  }
  return { reply: { delivered } };
}
