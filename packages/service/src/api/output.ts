import { Readable } from "node:stream";
import { type OperatorRoutes, problem } from "@yellow-harbor/protocol";
import type { OutputStream } from "../machines/driver.ts";
import { followOutput } from "./follow-output.ts";
import type { ApiParts } from "./parts.ts";
import type { Handler } from "./serve-routes.ts";

/** What an instance has printed, as plain text; with follow=true also what it prints from now on. */
export const outputHandler =
  ({ runtime, history, output }: ApiParts): Handler<OperatorRoutes["output"]> =>
  async ({ params: { instance }, query: { stream, follow, tailBytes, find }, reply }) => {
    const isLive = () => runtime.query(({ state }) => state.pools.instances.get(instance)?.gone === false);
    if (!(await isLive()) && (await history.instanceRecord(instance)) === undefined) {
      return { refused: problem("instance-unknown", `There is no instance ${instance}.`) };
    }
    const abort = new AbortController();
    reply.raw.once("close", () => abort.abort());
    const goesOn = async () => follow && !abort.signal.aborted && isLive();
    const streams: OutputStream[] = stream === "both" ? ["out", "err"] : [stream];
    const sources = streams.map((one) =>
      followOutput(output(instance, one), { tailBytes, goesOn, abort: abort.signal }),
    );
    const found = find === undefined ? sources : sources.map((source) => linesWith(source, find));
    return reply.type("text/plain; charset=utf-8").send(Readable.from(merge(found)));
  };

const LONGEST_LINE = 65_536;

/** The whole lines of a source that hold a text, whatever its case. */
async function* linesWith(source: AsyncGenerator<Buffer>, find: string): AsyncGenerator<Buffer> {
  const wanted = find.toLowerCase();
  const decoder = new TextDecoder();
  let rest = "";
  for await (const chunk of source) {
    const lines = (rest + decoder.decode(chunk, { stream: true })).split("\n");
    rest = (lines.pop() ?? "").slice(-LONGEST_LINE);
    const found = lines.filter((line) => line.toLowerCase().includes(wanted));
    if (found.length > 0) yield Buffer.from(`${found.join("\n")}\n`);
  }
  if (rest.toLowerCase().includes(wanted)) yield Buffer.from(rest);
}

/** Yields from all sources as each has something. */
async function* merge(sources: AsyncGenerator<Buffer>[]): AsyncGenerator<Buffer> {
  const next = (source: AsyncGenerator<Buffer>) => source.next().then((result) => ({ source, result }));
  const pending = new Map(sources.map((source) => [source, next(source)]));
  while (pending.size > 0) {
    const { source, result } = await Promise.race(pending.values());
    if (result.done) pending.delete(source);
    else {
      pending.set(source, next(source));
      yield result.value;
    }
  }
}
