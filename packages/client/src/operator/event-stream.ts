import { createParser } from "eventsource-parser";

/** The data of each server-sent event of a byte stream (HTML Living Standard, section 9.2.6). */
export async function* eventsOf(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  const whole: string[] = [];
  const parser = createParser({ onEvent: ({ data }) => whole.push(data) });
  for await (const chunk of chunks) {
    parser.feed(decoder.decode(chunk, { stream: true }));
    yield* whole.splice(0);
  }
}
