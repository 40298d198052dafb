import { inflateRawSync } from "node:zlib";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Frame, frameText } from "./framing.ts";

/** Reads one unmasked frame back, by RFC 6455, section 5.2. */
function readFrame(frame: Buffer): {
  fin: boolean;
  opcode: number;
  masked: boolean;
  text: string;
  headerBytes: number;
} {
  const short = (frame[1] ?? 0) & 0x7f;
  const [length, headerBytes] =
    short < 126 ? [short, 2] : short === 126 ? [frame.readUInt16BE(2), 4] : [Number(frame.readBigUInt64BE(2)), 10];
  const text = frame.toString("utf8", headerBytes, headerBytes + length);
  expect(frame.length).toBe(headerBytes + length);
  return {
    fin: Boolean((frame[0] ?? 0) & 0x80),
    opcode: (frame[0] ?? 0) & 0x0f,
    masked: Boolean((frame[1] ?? 0) & 0x80),
    text,
    headerBytes,
  };
}

describe("a text frame", () => {
  it.each([
    [0, 2],
    [125, 2],
    [126, 4],
    [65_535, 4],
    [65_536, 10],
  ])("of %i bytes has a header of %i", (length, headerBytes) => {
    const text = "x".repeat(length);
    expect(readFrame(frameText(text))).toEqual({ fin: true, opcode: 1, masked: false, text, headerBytes });
  });

  it("counts bytes, not characters", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", maxLength: 300 }), (text) => {
        expect(readFrame(frameText(text)).text).toBe(text);
      }),
    );
  });
});

/** The payload of a compressed frame, by RFC 7692, section 7.2.2. */
function inflated(frame: Buffer): string {
  const short = (frame[1] ?? 0) & 0x7f;
  const start = short < 126 ? 2 : 4;
  return inflateRawSync(Buffer.concat([frame.subarray(start), Buffer.from([0, 0, 0xff, 0xff])]), {
    finishFlush: 2,
  }).toString();
}

describe("a compressed frame", () => {
  const room = (note: string) => `{"frame":"update","scope":"room","id":"r_1","note":"${note}"}`;

  it("is what it was before, in fewer bytes, and says that it is compressed", () => {
    const frame = new Frame(room("a long time ago ".repeat(40)));
    const bytes = frame.compressed(128);
    expect([bytes[0], bytes.length < frame.bytes.length / 4]).toEqual([0xc1, true]);
    expect(inflated(bytes)).toBe(frame.content);
    expect(frame.compressed(128)).toBe(bytes);
  });

  it("is none where it is small, and where it may hold a token or a pass, whatever its size", () => {
    const small = new Frame(room("x"));
    expect(small.compressed(512)).toBe(small.bytes);
    const secret = "s".repeat(2_000);
    for (const text of [
      `{"frame":"welcome","resume":"${secret}"}`,
      `{"frame":"update","scope":"you","event":{"kind":"boarding-pass","pass":"${secret}"}}`,
      `{"frame":"reply","id":7,"reply":{"pass":"${secret}"}}`,
      `{"frame":"waiting","token":"${secret}"}`,
    ]) {
      const frame = new Frame(text);
      expect(frame.compressed(64), text.slice(0, 40)).toBe(frame.bytes);
    }
    for (const text of [
      `{"frame":"relayed","body":"${secret}"}`,
      `{"frame":"reply","id":7,"reply":{"rooms":"${secret}"}}`,
    ]) {
      const frame = new Frame(text);
      expect(frame.compressed(64).length, text.slice(0, 40)).toBeLessThan(200);
    }
  });

  it("may be one of bytes", () => {
    const frame = new Frame(new Uint8Array(4_000).fill(7));
    expect([frame.bytes[0], frame.compressed(64)[0]]).toEqual([0x82, 0xc2]);
    expect(frame.compressed(64).length).toBeLessThan(100);
  });
});
