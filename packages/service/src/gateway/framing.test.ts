import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { frameText } from "./framing.ts";

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
