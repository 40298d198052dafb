import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { readRelayBytes, readRelayedBytes, writeRelayBytes, writeRelayedBytes } from "./relay-bytes.ts";

describe("a binary frame", () => {
  it("is read as it was written, in both directions", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (body) => {
        for (const to of ["others", "all", "p_9f3k2m7c9x0a", { side: "north" }] as const) {
          expect(readRelayBytes(writeRelayBytes({ to, body }))).toEqual({ to, body });
        }
        const message = { room: "r_4kq2m7c9x0ab", from: "p_9f3k2m7c9x0a", body };
        expect(readRelayedBytes(writeRelayedBytes(message))).toEqual(message);
      }),
    );
  });

  it("has the bytes that the page says", () => {
    const body = new Uint8Array([7, 8]);
    expect([...writeRelayBytes({ to: { side: "n" }, body })]).toEqual([1, 6, ...Buffer.from("side:n"), 7, 8]);
    expect([...writeRelayedBytes({ room: "r", from: "pq", body })]).toEqual([1, 1, 0x72, 2, 0x70, 0x71, 7, 8]);
  });

  it("is none when it is cut, of another kind, or for nobody that there can be; whatever it is, it throws nothing", () => {
    const whole = writeRelayBytes({ to: "others", body: new Uint8Array() });
    for (let length = 0; length < whole.length; length++)
      expect(readRelayBytes(whole.subarray(0, length))).toBeUndefined();
    const of = (to: string) => new Uint8Array([1, to.length, ...Buffer.from(to, "latin1")]);
    for (const to of ["", "nobody", "side:", "side:a b", "side:NORTH", "p_", "\xff\xfe", "x".repeat(65)])
      expect(readRelayBytes(of(to)), to).toBeUndefined();
    expect(readRelayBytes(new Uint8Array([2, ...whole.subarray(1)]))).toBeUndefined();
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        readRelayBytes(bytes);
        readRelayedBytes(bytes);
      }),
    );
  });
});
