import { constants, deflateRawSync } from "node:zlib";

const FIN_TEXT = 0x81;
const FIN_BINARY = 0x82;
/** Set in the first byte of a frame whose payload is compressed (RFC 7692, section 6). */
const COMPRESSED = 0x40;
/** What a flush ends with, which is left out (RFC 7692, section 7.2.1). */
const FLUSH_BYTES = 4;

/**
 * What may be compressed: it goes to many, or lists what anybody may see. What holds tokens and passes never is, since its
 * length would say something of them.
 */
const MAY_COMPRESS =
  /^\{"frame":(?:"update","scope":"(?:room|lobby)"|"(?:directory|friends|relayed|chat)"|"reply","id":\d+,"reply":\{"(?:rooms|friends|levels|kinds|queues)")/;

/** What goes to one client or to many: put into the bytes of a frame once, by whoever has a socket of one of them. */
export class Frame {
  /** Of a text frame its text, of a binary one its bytes. */
  readonly content: string | Uint8Array;
  #bytes: Buffer | undefined;
  #compressed: Buffer | undefined;

  constructor(content: string | Uint8Array) {
    this.content = content;
  }

  get bytes(): Buffer {
    this.#bytes ??= typeof this.content === "string" ? frameText(this.content) : framed(FIN_BINARY, this.content);
    return this.#bytes;
  }

  /** Compressed, for those who take that, where it is at least so large and may be. */
  compressed(minBytes: number): Buffer {
    if (this.#compressed) return this.#compressed;
    const { content } = this;
    const mayBe = this.bytes.length >= minBytes && (typeof content !== "string" || MAY_COMPRESS.test(content));
    this.#compressed = mayBe ? deflated(content) : this.bytes;
    return this.#compressed;
  }
}

/**
 * One whole text frame, unmasked, as a server sends it (RFC 6455, section 5.2). A frame that many receive is made once.
 */
export function frameText(text: string): Buffer {
  const length = Buffer.byteLength(text);
  const [frame, start] = headed(FIN_TEXT, length);
  frame.write(text, start, "utf8");
  return frame;
}

/** Each frame stands alone, so that the same bytes are for all: no compressor is kept for anybody. */
function deflated(content: string | Uint8Array): Buffer {
  const payload = deflateRawSync(content, { finishFlush: constants.Z_SYNC_FLUSH, level: 1 });
  const kind = typeof content === "string" ? FIN_TEXT : FIN_BINARY;
  return framed(kind | COMPRESSED, payload.subarray(0, payload.length - FLUSH_BYTES));
}

function framed(first: number, payload: Uint8Array): Buffer {
  const [frame, start] = headed(first, payload.length);
  frame.set(payload, start);
  return frame;
}

/** A frame with its header, and where its payload begins. */
function headed(first: number, length: number): [frame: Buffer, start: number] {
  const start = length < 126 ? 2 : length < 65_536 ? 4 : 10;
  const frame = Buffer.allocUnsafe(start + length);
  frame[0] = first;
  if (start === 2) frame[1] = length;
  else if (start === 4) {
    frame[1] = 126;
    frame.writeUInt16BE(length, 2);
  } else {
    frame[1] = 127;
    frame.writeBigUInt64BE(BigInt(length), 2);
  }
  return [frame, start];
}
