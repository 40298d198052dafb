import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const post = async (service: TestService, path: string, body: object, headers: Record<string, string> = {}) => {
  const response = await fetch(service.url + path, {
    method: "POST",
    headers: { "content-type": "application/json", ...headers },
    body: JSON.stringify(body),
  });
  return { status: response.status, body: (await response.json()) as { code?: string; detail?: string } };
};

describe("a game's own back end", () => {
  it("opens a room, keeps places, brings players in, starts it, ends it", async () => {
    const service = await startTestService();
    const { operator } = service;
    const { room } = await operator.openRoom({ lobby: "quayside", name: "Final", capacity: 2, visibility: "locked" });
    expect(room).toMatchObject({ name: "Final", members: {}, visibility: "locked" });
    const [ansel, brisa, corin] = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    if (!ansel || !brisa || !corin) throw new Error("nobody came");
    await operator.reservePlace(room.code, { for: { player: ansel.id }, name: "Ansel", forMs: 60_000 });
    expect((await operator.reservations(room.id)).reservations).toMatchObject([
      { for: { player: ansel.id }, name: "Ansel" },
    ]);
    await expect(corin.joinRoom({ code: room.code })).rejects.toMatchObject({ problem: { code: "room-locked" } });
    await ansel.joinRoom({ code: room.code });
    expect(ansel.state.room).toMatchObject({ id: room.id, host: ansel.id });
    await operator.putInRoom(room.id, brisa.id);
    await brisa.until((state) => state.room?.id === room.id);
    await operator.changeRoom(room.id, { level: "brine-gate", settings: { tide: "spring" } });
    await brisa.until((state) => state.room?.settings.tide === "spring");
    await expect(operator.startRoom(room.id)).rejects.toMatchObject({ problem: { code: "start-not-possible" } });
    for (const player of [ansel, brisa]) await operator.readyMember(room.id, player.id);
    await operator.startRoom(room.id);
    await brisa.until((state) => state.room?.phase === "travelling" || state.room?.phase === "playing");
    expect(await service.operator.player(ansel.id)).toMatchObject({ name: "Ansel", room: room.id });
  });

  it("opens one room for one request, also over a restart", async () => {
    let service = await startTestService();
    const open = (key: string, wish: object = {}) =>
      post(service, "/v1/rooms", { lobby: "quayside", ...wish }, { "idempotency-key": key });
    const first = await open("final-1");
    expect(first.status).toBe(200);
    service = await service.restart();
    expect((await open("final-1")).body).toMatchObject({
      room: { id: (first.body as { room?: { id: string } }).room?.id },
    });
    expect((await service.operator.rooms()).rooms).toHaveLength(1);
    expect((await open("final-1", { name: "Other" })).body).toMatchObject({ code: "request-key-reused" });
    expect((await open("x".repeat(200))).body).toMatchObject({ code: "request-invalid" });
  });

  it("changes only what it has seen: the entity tag of a room is its revision", async () => {
    const service = await startTestService();
    const { room } = await service.operator.openRoom({ lobby: "quayside" });
    const looked = await fetch(`${service.url}/v1/rooms/${room.code}`);
    const tag = looked.headers.get("etag") ?? "";
    expect(tag).toBe(`"${room.revision}"`);
    const change = (name: string, match: string) =>
      post(service, `/v1/rooms/${room.code}/change`, { name }, { "if-match": match });
    expect((await change("Final", tag)).status).toBe(200);
    expect(await change("Semifinal", tag)).toMatchObject({ status: 412, body: { code: "revision-stale" } });
    expect((await change("Semifinal", "*")).status).toBe(200);
    expect(await change("Quarterfinal", "seven")).toMatchObject({ status: 422, body: { code: "request-invalid" } });
  });

  it.each([
    [{ lobby: "nowhere" }, 404, "lobby-unknown"],
    [{ lobby: "quayside", kind: "nothing" }, 404, "room-kind-unknown"],
    [{ lobby: "quayside", code: "AEIO0" }, 422, "request-invalid"],
    [{ lobby: "quayside", keepMs: 1 }, 422, "request-invalid"],
    [{ lobby: "quayside", colour: "red" }, 422, "request-invalid"],
    [{}, 422, "request-invalid"],
  ])("is told what is wrong with %j", async (wish, status, code) => {
    expect(await post(await startTestService(), "/v1/rooms", wish)).toMatchObject({ status, body: { code } });
  });

  it("is told the kinds of rooms with what their settings may be, and takes variants", async () => {
    const crews = {
      settings: { tide: { type: "string", enum: ["spring", "neap"], default: "spring", readOnly: true } },
      variants: { calm: { tide: "neap" } },
    } as const;
    const service = await startTestService(
      testConfig("good", (one) => ({ ...one, roomKinds: { crews: { ...one.roomKinds["crews"], ...crews } as never } })),
    );
    expect((await service.operator.roomKinds()).kinds).toMatchObject([{ id: "crews", ...crews }]);
    const { room } = await service.operator.openRoom({ lobby: "quayside", variant: "calm" });
    expect(room.settings).toEqual({ tide: "neap" });
    const ansel = await service.player("Ansel");
    expect((await ansel.listRoomKinds()).kinds).toMatchObject([{ id: "crews", ...crews }]);
    await ansel.joinRoom({ code: room.code });
    await expect(ansel.changeRoom({ settings: { tide: "spring" } })).rejects.toMatchObject({
      problem: { code: "setting-not-yours" },
    });
  });

  it("looks one player up by id or account", async () => {
    const service = await startTestService();
    await expect(service.operator.player("p_000000000000")).rejects.toMatchObject({
      problem: { code: "player-unknown" },
    });
    await expect(service.operator.player("game:1")).rejects.toMatchObject({ problem: { code: "player-unknown" } });
  });
});
