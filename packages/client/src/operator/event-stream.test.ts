import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { eventsOf } from "./event-stream.ts";

async function read(chunks: readonly Uint8Array[]): Promise<string[]> {
  const events: string[] = [];
  const source = (async function* () {
    yield* chunks;
  })();
  for await (const event of eventsOf(source)) events.push(event);
  return events;
}

describe("an event stream", () => {
  it("is read the same wherever it is cut, also within a character", async () => {
    const texts = ['{"n":1}', '{"name":"Łukasz 👩‍🚀"}', "{}"];
    const bytes = new TextEncoder().encode(texts.map((text) => `: heartbeat\n\ndata: ${text}\n\n`).join(""));
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(bytes.length), { maxLength: 8 }), async (cuts) => {
        const places = [0, ...cuts.sort((a, b) => a - b), bytes.length];
        const chunks = places.slice(1).map((end, n) => bytes.subarray(places[n], end));
        expect(await read(chunks)).toEqual(texts);
      }),
    );
  });

  it.each(["\n", "\r\n"])("is read whatever ends its lines (%j), as proxies may change that", async (end) => {
    const text = [": heartbeat", "", "data: a", "", "event: x", "data:b", "", ""].join(end);
    expect(await read([...text].map((one) => new TextEncoder().encode(one)))).toEqual(["a", "b"]);
  });

  it("joins the lines of one event and leaves out one that was not finished", async () => {
    expect(await read([new TextEncoder().encode("data: a\ndata: b\n\ndata: cut off")])).toEqual(["a\nb"]);
  });
});
