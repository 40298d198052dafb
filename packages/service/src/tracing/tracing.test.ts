import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, sayToInstance, startTestService, startVoyage, testConfig } from "../testing/test-service.ts";

interface Attribute {
  readonly key: string;
  readonly value: { readonly stringValue?: string; readonly intValue?: number | string };
}
interface OtlpSpan {
  readonly traceId: string;
  readonly spanId: string;
  readonly parentSpanId?: string;
  readonly name: string;
  readonly startTimeUnixNano: string;
  readonly endTimeUnixNano: string;
  readonly attributes: readonly Attribute[];
  readonly status: { readonly code?: number };
}

const servers: Server[] = [];
afterEach(async () => {
  await endAll();
  for (const server of servers.splice(0)) server.close();
});

/** Stands for a collector: takes spans as OTLP has them in JSON. */
async function collector(status = 200) {
  const spans: OtlpSpan[] = [];
  const tokens = new Set<string | undefined>();
  let requests = 0;
  const server = createServer(async (request, response) => {
    let body = "";
    for await (const chunk of request) body += chunk;
    requests += 1;
    tokens.add(request.headers.authorization);
    const { resourceSpans } = JSON.parse(body);
    for (const { scopeSpans } of resourceSpans) for (const one of scopeSpans) spans.push(...one.spans);
    response.writeHead(status, { "content-type": "application/json" }).end("{}");
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  const url = `http://127.0.0.1:${port}/v1/traces`;
  return {
    url,
    spans,
    tokens,
    requests: () => requests,
    of: (name: string) => spans.filter((one) => one.name === name),
  };
}

const configFor = (url: string, more: object = {}) =>
  testConfig("good", (one) => Config.parse({ ...one, tracing: { url, share: 1 }, ...more }));

const attributesOf = ({ attributes }: OtlpSpan) =>
  Object.fromEntries(attributes.map(({ key, value }) => [key, value.stringValue ?? Number(value.intValue)]));

describe("traces", () => {
  it("follow a player's request through decision, commit and delivery, and a room from its start to boarding", async () => {
    const { url, spans, tokens, of } = await collector();
    process.env["COLLECTOR"] = "a-token-of-the-collector";
    const service = await startTestService(
      configFor(url, {
        secrets: { collector: { environment: "COLLECTOR" } },
        tracing: { url, share: 1, secret: "collector" },
      }),
    );
    const { ansel, brisa } = await startVoyage(service);
    for (const player of [ansel, brisa]) {
      const { address, pass } = await player.nextPass();
      await sayToInstance(address, pass);
    }
    const { room } = await ansel.until((state) => state.room?.phase === "playing");
    await ansel.start().catch(() => undefined);
    await service.stop();
    await vi.waitFor(() => expect(of("travel").length).toBe(1), { timeout: 30_000 });
    const [ready] = of("room.ready");
    if (ready === undefined) throw new Error("no span of room.ready");
    const steps = spans.filter(({ parentSpanId }) => parentSpanId === ready.spanId);
    expect(steps.map(({ name }) => name)).toEqual(["decide", "commit", "deliver"]);
    // Each begins when the one before it is over, and all lie within the request.
    for (const [n, step] of steps.entries()) {
      expect(BigInt(step.startTimeUnixNano)).toBeGreaterThanOrEqual(BigInt(ready.startTimeUnixNano));
      expect(BigInt(step.endTimeUnixNano)).toBeLessThanOrEqual(BigInt(ready.endTimeUnixNano));
      const before = steps[n - 1];
      if (before) expect(BigInt(step.startTimeUnixNano)).toBeGreaterThanOrEqual(BigInt(before.endTimeUnixNano));
    }
    const [travel] = of("travel");
    if (travel === undefined) throw new Error("no span of the travel");
    expect(attributesOf(travel)).toEqual({ "yh.run": room?.run, "yh.room": room?.id });
    const ofTravel = spans.filter(({ parentSpanId }) => parentSpanId === travel.spanId);
    expect(ofTravel.map(({ name }) => name)).toEqual(["prepare", "board"]);
    // A refusal names its code: the room plays already.
    const starts = of("room.start").map(attributesOf);
    expect(starts.map((one) => one["yh.problem"])).toEqual([undefined, expect.any(String)]);
    expect([...tokens]).toEqual(["Bearer a-token-of-the-collector"]);
  });

  it("go on with that of a caller over HTTP, whatever the share, and are none where the share is 0", async () => {
    const { url, spans, of } = await collector();
    const service = await startTestService(configFor(url, { tracing: { url, share: 0 } }));
    const [traceId, parent] = ["4bf92f3577b34da6a3ce929d0e0e4736", "00f067aa0ba902b7"];
    const ask = (traceparent: string) => fetch(`${service.url}/v1/rooms/NONE1`, { headers: { traceparent } });
    await ask(`00-${traceId}-${parent}-01`);
    await ask(`00-${traceId}-${parent}-00`);
    await ask("00-no-trace-at-all");
    await service.player("Ansel");
    await service.stop();
    await vi.waitFor(() => expect(spans.length).toBe(1), { timeout: 30_000 });
    expect(of("GET /v1/rooms/:room")).toMatchObject([{ traceId, parentSpanId: parent }]);
    expect(spans.map(attributesOf)).toMatchObject([
      { "http.response.status_code": 404, "yh.problem": "room-unknown", "http.route": "/v1/rooms/:room" },
    ]);
  });

  it("are in nobody's way when the collector refuses them or is gone", async () => {
    const gone = await collector();
    servers.pop()?.close();
    const service = await startTestService(configFor(gone.url));
    const ansel = await service.player("Ansel");
    await ansel.openRoom({ capacity: 2 });
    const begin = performance.now();
    await service.stop();
    expect(performance.now() - begin).toBeLessThan(10_000);
    const refusing = await collector(500);
    const other = await startTestService(configFor(refusing.url));
    await (await other.player("Brisa")).openRoom({ capacity: 2 });
    await vi.waitFor(() => expect(refusing.requests()).toBeGreaterThan(0), { timeout: 30_000 });
    expect((await fetch(`${other.url}/healthz`)).status).toBe(200);
  });
});
