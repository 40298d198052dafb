import { Readable } from "node:stream";
import { InstanceId, OutputQuery, problem } from "@yellow-harbor/protocol";
import { z } from "zod";
import type { OutputStream } from "../machines/driver.ts";
import { followOutput } from "./output.ts";
import type { Api, ApiParts } from "./parts.ts";
import { sendProblem } from "./problems.ts";

/** What an instance has printed, as plain text; with follow=true also what it prints from now on. */
export function outputRoute(api: Api, { runtime, journal, driver }: ApiParts): void {
  const schema = {
    tags: ["instances"],
    security: [{ operatorToken: [] }],
    summary: "What an instance has printed, as plain text; also after it has ended.",
    params: z.object({ instance: InstanceId }),
    querystring: OutputQuery,
  };
  api.get("/v1/instances/:instance/output", { schema }, async (request, reply) => {
    const { instance } = request.params;
    const { stream, follow, tailBytes } = request.query;
    const isLive = () => runtime.query(({ state }) => state.pools.instances.get(instance)?.gone === false);
    if (!(await isLive()) && (await journal.instanceRecord(instance)) === undefined) {
      return sendProblem(reply, problem("instance-unknown", `There is no instance ${instance}.`));
    }
    const abort = new AbortController();
    reply.raw.once("close", () => abort.abort());
    const goesOn = async () => follow && !abort.signal.aborted && isLive();
    const streams: OutputStream[] = stream === "both" ? ["out", "err"] : [stream];
    const sources = streams.map((one) =>
      followOutput(driver().outputFile(instance, one), { tailBytes, goesOn, abort: abort.signal }),
    );
    return reply.type("text/plain; charset=utf-8").send(Readable.from(merge(sources)));
  });
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
