import { OperatorClient } from "@yellow-harbor/client";

/** Prints what happens as sentences, a line each, until `signal` is aborted. */
export async function tellStory(url: string, print: (line: string) => void, signal: AbortSignal): Promise<void> {
  const operator = new OperatorClient({ url });
  try {
    for await (const message of operator.watch(signal)) {
      if (message.message !== "happened" || message.text === undefined) continue;
      print(`${new Date(message.atMs).toISOString().slice(11, 19)}  ${message.text}`);
    }
  } catch (error) {
    if (!signal.aborted) throw error;
  }
}
