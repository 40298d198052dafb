import { z } from "zod";
import { PlayerId, type RoomId, SideName } from "./ids.ts";

/** First byte of every binary frame of today: a message that is relayed. */
export const RELAY_BYTES = 1;

/** Whom a relayed message is for. */
export const RelayTo = z.union([z.enum(["all", "others"]), PlayerId, z.strictObject({ side: SideName })]);
export type RelayTo = z.infer<typeof RelayTo>;

export interface RelayBytes {
  readonly to: RelayTo;
  readonly body: Uint8Array;
}

export interface RelayedBytes {
  readonly room: RoomId;
  readonly from: PlayerId;
  readonly body: Uint8Array;
}

const SIDE = "side:";
/** What stands before the body of a frame: short texts in ASCII, each behind its length in one byte. */
const TEXT_MAX = 64;

/** The frame of a client: the kind, whom it is for (`others`, `all`, a player's id, `side:NAME`), the body. */
export const writeRelayBytes = ({ to, body }: RelayBytes): Uint8Array<ArrayBuffer> =>
  written([typeof to === "string" ? to : `${SIDE}${to.side}`], body);

/** What a client's frame says, or undefined when it is none of that kind. */
export function readRelayBytes(frame: Uint8Array): RelayBytes | undefined {
  const [texts, body] = read(frame, 1) ?? [];
  if (texts === undefined || body === undefined) return undefined;
  const [text = ""] = texts;
  const to = RelayTo.safeParse(text.startsWith(SIDE) ? { side: text.slice(SIDE.length) } : text);
  return to.success ? { to: to.data, body } : undefined;
}

/** The frame of the service: the kind, the room, who has sent it, the body. */
export const writeRelayedBytes = ({ room, from, body }: RelayedBytes): Uint8Array<ArrayBuffer> =>
  written([room, from], body);

/** What a frame of the service says, or undefined when it is of a kind that is not known here: such a one is passed over. */
export function readRelayedBytes(frame: Uint8Array): RelayedBytes | undefined {
  const [texts, body] = read(frame, 2) ?? [];
  if (texts === undefined || body === undefined) return undefined;
  const [room = "", from = ""] = texts;
  return { room, from, body };
}

function written(texts: readonly string[], body: Uint8Array): Uint8Array<ArrayBuffer> {
  const head = [RELAY_BYTES, ...texts.flatMap((text) => [text.length, ...[...text].map((one) => one.charCodeAt(0))])];
  const frame = new Uint8Array(head.length + body.length);
  frame.set(head);
  frame.set(body, head.length);
  return frame;
}

function read(frame: Uint8Array, many: number): [texts: string[], body: Uint8Array] | undefined {
  if (frame[0] !== RELAY_BYTES) return undefined;
  const texts: string[] = [];
  let at = 1;
  for (let n = 0; n < many; n++) {
    const length = frame[at];
    if (length === undefined || length > TEXT_MAX || at + 1 + length > frame.length) return undefined;
    texts.push(String.fromCharCode(...frame.subarray(at + 1, at + 1 + length)));
    at += 1 + length;
  }
  return [texts, frame.subarray(at)];
}
