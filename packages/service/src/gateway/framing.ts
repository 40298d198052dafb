const FIN_TEXT = 0x81;

/** What goes to one client or to many: put into the bytes of a frame once, by whoever has a socket of one of them. */
export class Frame {
  readonly text: string;
  #bytes: Buffer | undefined;

  constructor(text: string) {
    this.text = text;
  }

  get bytes(): Buffer {
    this.#bytes ??= frameText(this.text);
    return this.#bytes;
  }
}

/**
 * One whole text frame, unmasked, as a server sends it (RFC 6455, section 5.2). A frame that many receive is made once.
 */
export function frameText(text: string): Buffer {
  const length = Buffer.byteLength(text);
  if (length < 126) return fill(2, length, length, text);
  if (length < 65_536) {
    const frame = fill(4, 126, length, text);
    frame.writeUInt16BE(length, 2);
    return frame;
  }
  const frame = fill(10, 127, length, text);
  frame.writeBigUInt64BE(BigInt(length), 2);
  return frame;
}

function fill(headerBytes: number, lengthField: number, length: number, text: string): Buffer {
  const frame = Buffer.allocUnsafe(headerBytes + length);
  frame[0] = FIN_TEXT;
  frame[1] = lengthField;
  frame.write(text, headerBytes, "utf8");
  return frame;
}
