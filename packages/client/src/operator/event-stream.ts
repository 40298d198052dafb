/** The data of each server-sent event of a byte stream (HTML Living Standard, section 9.2.6). */
export async function* eventsOf(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  let rest = "";
  for await (const chunk of chunks) {
    rest += decoder.decode(chunk, { stream: true });
    for (let end = rest.indexOf("\n\n"); end >= 0; end = rest.indexOf("\n\n")) {
      const text = dataOf(rest.slice(0, end));
      rest = rest.slice(end + 2);
      if (text !== undefined) yield text;
    }
  }
}

function dataOf(block: string): string | undefined {
  const lines = block.split("\n").filter((line) => line.startsWith("data:"));
  return lines.length === 0 ? undefined : lines.map((line) => line.slice(5).trimStart()).join("\n");
}
