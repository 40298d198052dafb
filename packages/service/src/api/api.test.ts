import { request } from "node:http";
import { Problem } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, startVoyage, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

/** A request with headers that fetch would not send. */
function get(url: string, headers: Record<string, string>): Promise<{ status: number; body: string }> {
  return new Promise((resolve, reject) => {
    const asked = request(url, { headers }, (response) => {
      let body = "";
      response.on("data", (chunk) => (body += chunk));
      response.on("end", () => resolve({ status: response.statusCode ?? 0, body }));
    });
    asked.on("error", reject);
    asked.end();
  });
}

describe("a wrong request", () => {
  it.each([
    ["GET", "/v1/nothing", 404, "not-found"],
    ["GET", "/v1/rooms/NOSUCH", 404, "room-unknown"],
    ["GET", "/v1/instances/i_000000000000", 404, "instance-unknown"],
    ["GET", "/v1/instances/i_000000000000/output", 404, "instance-unknown"],
    ["GET", "/v1/instances/..%2f..%2fetc/output", 422, "request-invalid"],
    ["GET", "/v1/rooms?limit=0", 422, "request-invalid"],
    ["GET", "/v1/rooms?limit=many", 422, "request-invalid"],
    ["GET", "/v1/rooms?phase=sleeping", 422, "request-invalid"],
    ["DELETE", "/v1/rooms", 404, "not-found"],
    ["GET", "/..%2f..%2fpackage.json", 404, "not-found"],
  ])("(%s %s) is answered with problem details of a known code", async (method, path, status, code) => {
    const service = await startTestService();
    const response = await fetch(`${service.url}${path}`, { method });
    expect(response.status).toBe(status);
    expect(response.headers.get("content-type")).toContain("application/problem+json");
    expect(Problem.parse(await response.json())).toMatchObject({ code, status });
  });

  it("with a body that is no JSON, of another type or too large is refused, not a fault", async () => {
    const service = await startTestService();
    const post = (body: string, type = "application/json") =>
      fetch(`${service.url}/v1/instance/poll`, { method: "POST", headers: { "content-type": type }, body });
    for (const response of [
      await post("{"),
      await post("x", "text/html"),
      await post(JSON.stringify({ x: "y".repeat(100_000) })),
    ]) {
      expect(response.status).toBeGreaterThanOrEqual(400);
      expect(response.status).toBeLessThan(500);
      expect(Problem.safeParse(await response.json()).success).toBe(true);
    }
  });
});

describe("operators", () => {
  it("on this computer need no token, but no other site may use that", async () => {
    const service = await startTestService();
    const status = `${service.url}/v1/status`;
    expect((await get(status, {})).status).toBe(200);
    expect(JSON.parse((await get(status, { host: "evil.example" })).body)).toMatchObject({ code: "host-not-allowed" });
    expect(JSON.parse((await get(status, { "sec-fetch-site": "cross-site" })).body)).toMatchObject({
      code: "operator-token-needed",
    });
    expect((await get(status, { host: "evil.example", authorization: `Bearer ${service.operatorToken}` })).status).toBe(
      200,
    );
  });

  it("need the token where the configuration says so", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, operators: { ...config.operators, access: "key" } })),
    );
    expect((await get(`${service.url}/v1/status`, {})).status).toBe(401);
    expect((await get(`${service.url}/v1/status`, { authorization: "Bearer wrong" })).status).toBe(401);
    expect((await get(`${service.url}/v1/watch`, {})).status).toBe(401);
    expect((await get(`${service.url}/v1/status`, { authorization: `Bearer ${service.operatorToken}` })).status).toBe(
      200,
    );
    // Health is asked by machines that hold no token.
    expect((await get(`${service.url}/healthz`, {})).status).toBe(200);
  });

  it("see the service in numbers and rooms page by page", async () => {
    const service = await startTestService();
    const players = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    for (const player of players) await player.openRoom();
    await service.player("Dovie");
    expect(await service.operator.status()).toMatchObject({
      players: { here: 4, away: 0 },
      rooms: { gathering: 3 },
      lobbies: [{ id: "quayside", players: 1, rooms: 3, inRooms: 3 }],
    });
    const first = await service.operator.rooms({ limit: 2 });
    const second = await service.operator.rooms({ limit: 2, after: first.next });
    expect([...first.rooms, ...second.rooms].map(({ id }) => id)).toHaveLength(3);
    expect(new Set([...first.rooms, ...second.rooms].map(({ id }) => id)).size).toBe(3);
    expect(second.next).toBeUndefined();
  });

  it("are told why a room cannot start, in data and in words", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom();
    expect(await service.operator.explainRoom(room.code.toLowerCase())).toMatchObject({
      canStart: false,
      missing: [{ code: "level" }, { code: "players", needed: 1 }, { code: "ready", player: ansel.id }],
      text: [
        "Cannot start: the host has not picked a level.",
        "Cannot start: needs 1 more player.",
        "Cannot start: Ansel is not ready.",
      ],
    });
    const voyage = await startVoyage(service);
    const { text } = await service.operator.explainRoom(voyage.room.id);
    expect(text[0]).toMatch(/^Travelling to brine-gate for 0 s: waiting for/);
  });

  it("who watch get the state first and then every change, without a gap", async () => {
    const { mergePatch } = await import("@yellow-harbor/client");
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const abort = new AbortController();
    const kinds: string[] = [];
    let state: object | undefined;
    const watching = (async () => {
      for await (const message of service.operator.watch(abort.signal)) {
        if (message.message === "state") state = message.state;
        else state = mergePatch(state, message.patch) as object;
        if (message.message === "happened") kinds.push(message.kind);
        if (message.message === "state")
          void ansel
            .openRoom({ capacity: 2 })
            .then(() => ansel.setReady(true))
            .then(() => ansel.leaveRoom())
            .then(() => ansel.leave());
        if (message.message === "happened" && message.kind === "player.left") break;
      }
    })();
    await watching;
    const { rooms, lobbies } = state as { rooms: object; lobbies: Record<string, object> };
    expect(rooms).toEqual({});
    expect(lobbies.quayside).toMatchObject({ rooms: 0, inRooms: 0 });
    expect(kinds).toContain("room.ready-set");
    abort.abort();
  });
});
