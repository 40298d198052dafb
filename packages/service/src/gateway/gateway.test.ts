import { request } from "node:http";
import { connect } from "node:net";
import { FRAME_MAX_BYTES } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { rawClient } from "../testing/raw-client.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const HELLO = { frame: "hello", wire: 1, build: "game-1", name: "Ansel" };
const codeOf = (frame: Record<string, unknown>) => (frame.problem as { code: string }).code;

describe("a hello", () => {
  it("may be followed at once by requests, which are answered after the welcome", async () => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    client.send(HELLO);
    for (let id = 1; id <= 17; id++) client.send({ frame: "request", id, ask: "level.list" });
    await client.frame("reply", 16);
    expect(client.frames.find(({ frame, id }) => frame === "reply" && id === 17)).toMatchObject({
      problem: { code: "hello-expected" },
    });
    const order = client.frames.filter(({ id }) => id !== 17).map(({ frame, id }) => id ?? frame);
    expect(order.filter((one) => one !== "update")).toEqual([
      "welcome",
      ...Array.from({ length: 16 }, (_, n) => n + 1),
    ]);
  });

  it("is answered with who one is and the complete state of the lobby", async () => {
    const service = await startTestService();
    await service.player("Brisa");
    const client = await rawClient(service.url);
    client.send(HELLO);
    const welcome = await client.frame("welcome");
    expect(welcome).toMatchObject({
      wire: 1,
      harbor: "test-harbor",
      resumed: false,
      player: { name: "Ansel" },
      lobby: { id: "quayside" },
    });
    const names = Object.values((welcome.lobby as { players: Record<string, { name: string }> }).players).map(
      ({ name }) => name,
    );
    expect(names.sort()).toEqual(["Ansel", "Brisa"]);
  });

  it("of another wire version or build is refused with what is accepted, and closed with the code", async () => {
    const service = await startTestService();
    const old = await rawClient(service.url);
    old.send({ ...HELLO, wire: 7 });
    expect(await old.frame("closing")).toMatchObject({ problem: { code: "wire-unsupported", accepted: ["1"] } });
    expect(await old.closed()).toEqual({ code: 4426, reason: "wire-unsupported" });
    const odd = await rawClient(service.url);
    odd.send({ ...HELLO, build: "game-0" });
    expect(await odd.frame("closing")).toMatchObject({ problem: { code: "build-unsupported", accepted: ["game-1"] } });
    expect((await odd.closed()).code).toBe(4427);
  });

  it("over another subprotocol is refused over HTTP, as problem details", async () => {
    const service = await startTestService();
    const answer = await new Promise<{ status: number; type: string; body: string }>((resolve, reject) => {
      const asked = request(`${service.url}/v1/play`, {
        headers: {
          connection: "Upgrade",
          upgrade: "websocket",
          "sec-websocket-version": "13",
          "sec-websocket-key": "AAAAAAAAAAAAAAAAAAAAAA==",
          "sec-websocket-protocol": "yellow-harbor.9",
        },
      });
      asked.on("error", reject);
      asked.on("response", (response) => {
        let body = "";
        response.on("data", (chunk) => (body += chunk));
        response.on("end", () =>
          resolve({ status: response.statusCode ?? 0, type: response.headers["content-type"] ?? "", body }),
        );
      });
      asked.end();
    });
    expect(answer).toMatchObject({ status: 400, type: "application/problem+json" });
    expect(JSON.parse(answer.body)).toMatchObject({ code: "wire-unsupported", accepted: ["yellow-harbor.1"] });
  });

  it.each([
    ["an empty name", { name: "   " }],
    ["a name of 33 characters", { name: "x".repeat(33) }],
    ["a name with a direction override", { name: "An\u202Esel" }],
    ["a name of invisible characters", { name: "\u200B\u200B" }],
    ["a name that is no text", { name: 7 }],
    ["no name at all", { name: undefined }],
    ["an unknown member", { rank: "admiral" }],
    ["a resume token that is no text", { resume: {} }],
    ["a control character", { name: "An\u0007sel" }],
    ["nothing but its kind", { wire: undefined, build: undefined, name: undefined }],
  ])("with %s is answered at once by closing, with the reason", async (_about, change) => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    client.send({ ...HELLO, ...change });
    const closing = await client.frame("closing");
    expect(closing.problem).toMatchObject({ code: "request-invalid", fields: expect.any(Array) });
    expect(await client.closed()).toEqual({ code: 4400, reason: "request-invalid" });
  });

  it("that does not fit is explained by the SDK in the service's words", async () => {
    const service = await startTestService();
    await expect(service.player("A".repeat(33))).rejects.toMatchObject({
      code: "request-invalid",
      message: expect.stringContaining("1 to 32 visible characters"),
    });
  });

  it("takes names of any script, trimmed", async () => {
    const service = await startTestService();
    for (const name of ["  Łukasz ", "ナギサ", "عمر", "👩‍🚀 Zoë", "ก้อง"]) {
      const player = await service.player(name);
      expect(player.name).toBe(name.trim().normalize("NFC"));
    }
  });

  it("with a forged resume token, or one of a player who left, is refused", async () => {
    const service = await startTestService();
    const forged = await rawClient(service.url);
    forged.send({ ...HELLO, resume: "eyJhbGciOiJub25lIn0.eyJzdWIiOiJwXzEifQ." });
    expect((await forged.closed()).reason).toBe("token-invalid");
    const ansel = await service.player("Ansel");
    const token = ansel.resumeToken;
    await ansel.leave();
    await expect(service.player("Ansel", { resume: token })).rejects.toMatchObject({ code: "player-unknown" });
  });

  it("must come first, once, and in time", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, players: { ...config.players, helloMs: 300 } })),
    );
    const client = await rawClient(service.url);
    client.send({ frame: "request", id: 5, ask: "room.open", args: {} });
    expect(codeOf(await client.frame("reply", 5))).toBe("hello-expected");
    client.send(HELLO);
    await client.frame("welcome");
    client.send(HELLO);
    expect(codeOf(await client.frame("refused"))).toBe("hello-twice");
    const dumb = await rawClient(service.url);
    expect(await dumb.closed()).toEqual({ code: 4408, reason: "hello-late" });
  });

  it("is refused when the player limit is reached", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, players: { ...config.players, limit: 1 } })),
    );
    await service.player("Ansel");
    await expect(service.player("Brisa")).rejects.toMatchObject({ code: "harbor-full" });
  });
});

describe("a bad frame", () => {
  it.each([
    ["no JSON", "{", "frame-not-json"],
    ["no object", "[1,2]", "frame-unknown"],
    ["null", "null", "frame-unknown"],
    ["an unknown kind", { frame: "wave" }, "frame-unknown"],
    [
      "too large",
      JSON.stringify({ frame: "request", id: 1, ask: "room.open", args: { name: "x".repeat(FRAME_MAX_BYTES) } }),
      "frame-too-large",
    ],
    ["a request without an id", { frame: "request", ask: "room.open" }, "request-invalid"],
  ])("(%s) is refused with its code, and the connection goes on", async (_about, frame, code) => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    client.send(HELLO);
    await client.frame("welcome");
    client.send(frame);
    expect(codeOf(await client.frame("refused"))).toBe(code);
    client.send({ frame: "request", id: 9, ask: "level.list" });
    expect(await client.frame("reply", 9)).toMatchObject({ reply: { levels: [{ id: "brine-gate" }] } });
  });

  it("that names an unknown request is answered with the nearest one", async () => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    client.send(HELLO);
    await client.frame("welcome");
    client.send({ frame: "request", id: 1, ask: "room.opne" });
    expect(await client.frame("reply", 1)).toMatchObject({
      problem: { code: "request-unknown", detail: expect.stringContaining("room.open") },
    });
    client.send({ frame: "request", id: 2, ask: "__proto__" });
    expect(codeOf(await client.frame("reply", 2))).toBe("request-unknown");
  });

  it.each([
    [{ capacity: 0 }, "args.capacity"],
    [{ capacity: 65 }, "args.capacity"],
    [{ capacity: 2.5 }, "args.capacity"],
    [{ capacity: "two" }, "args.capacity"],
    [{ name: "\u0000" }, "args.name"],
    [{ colour: "red" }, "args"],
  ])("with arguments %j names the field", async (args, path) => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    client.send(HELLO);
    await client.frame("welcome");
    client.send({ frame: "request", id: 1, ask: "room.open", args });
    const { problem } = (await client.frame("reply", 1)) as { problem: { code: string; fields: { path: string }[] } };
    expect(problem.code).toBe("request-invalid");
    expect(problem.fields[0]?.path).toBe(path);
  });

  it("closes the connection after too many protocol errors, with the code of the last one", async () => {
    const service = await startTestService();
    const client = await rawClient(service.url);
    for (let n = 0; n < 10; n++) client.send("{");
    expect(await client.closed()).toEqual({ code: 4400, reason: "frame-not-json" });
  });

  it("is told when too many come, and closed when it goes on", async () => {
    const service = await startTestService(
      testConfig("good", (config) => ({ ...config, players: { ...config.players, framesPerSecond: 10 } })),
    );
    const client = await rawClient(service.url);
    client.send(HELLO);
    await client.frame("welcome");
    for (let n = 0; n < 40; n++) client.send({ frame: "request", id: n, ask: "level.list" });
    expect(await client.closed()).toEqual({ code: 4429, reason: "too-many-frames" });
  });
});

describe("the players' port", () => {
  it("answers other upgrades with 404 and outlives a socket that says nothing sensible", async () => {
    const service = await startTestService();
    const answer = await new Promise<string>((resolve) => {
      const socket = connect(service.port, "127.0.0.1", () =>
        socket.write(
          "GET /elsewhere HTTP/1.1\r\nHost: x\r\nConnection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==\r\n\r\n",
        ),
      );
      socket.once("data", (bytes) => resolve(String(bytes)));
    });
    expect(answer).toContain("404");
    await new Promise<void>((resolve) => {
      const socket = connect(service.port, "127.0.0.1", () => socket.end("\x16\x03\x01 nonsense\r\n\r\n"));
      socket.on("close", () => resolve());
      socket.resume();
    });
    await service.player("Ansel");
  });
});

describe("a service that stops", () => {
  it("lets nobody in while it says goodbye, and so comes to an end", async () => {
    const service = await startTestService();
    // A client that never answers the closing handshake keeps the goodbye open for a moment.
    const mute = connect(service.port, "127.0.0.1");
    const key = "Sec-WebSocket-Version: 13\r\nSec-WebSocket-Key: AAAAAAAAAAAAAAAAAAAAAA==";
    mute.write(`GET /v1/play HTTP/1.1\r\nHost: x\r\nConnection: Upgrade\r\nUpgrade: websocket\r\n${key}\r\n\r\n`);
    await new Promise((resolve) => mute.once("data", resolve));
    const told = new Promise((resolve) => mute.once("data", resolve));
    const stopped = service.stop();
    await told;
    const refused = await new Promise<number>((resolve, reject) => {
      const late = new WebSocket(`${service.url.replace("http", "ws")}/v1/play`);
      late.on("unexpected-response", (_request, response) => resolve(response.statusCode ?? 0));
      late.on("open", () => reject(new Error("it was let in")));
      late.on("error", () => undefined);
    });
    expect(refused).toBe(503);
    await stopped;
    mute.destroy();
  });
});

describe("a connection", () => {
  it("that is taken over by a second one is told so and not counted as lost", async () => {
    const service = await startTestService();
    const first = await service.player("Ansel");
    const { room } = await first.openRoom();
    const ended = new Promise<{ problem: { code: string } | undefined }>((resolve) => first.on("ended", resolve));
    const second = await service.player("Ansel", { resume: first.resumeToken });
    expect((await ended).problem?.code).toBe("taken-over");
    expect(second.id).toBe(first.id);
    expect(second.state.room?.members[second.id]?.presence).toBe("here");
    expect((await service.operator.room(room.id)).members[second.id]?.presence).toBe("here");
  });

  it("that is cut keeps its place, and resumes with the update it missed in the state", async () => {
    const service = await startTestService();
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom({ capacity: 3 });
    await brisa.joinRoom({ room: room.id });
    const token = brisa.resumeToken;
    brisa.drop();
    await ansel.until((state) => state.room?.members[brisa.id]?.presence === "away");
    await ansel.pickLevel("brine-gate");
    const again = await service.player("Brisa", { resume: token });
    expect(again.state.room).toMatchObject({ id: room.id, level: { id: "brine-gate" } });
    await ansel.until((state) => state.room?.members[brisa.id]?.presence === "here");
  });

  it("that stays away longer than the grace loses its place, and everybody learns it", async () => {
    const service = await startTestService(
      testConfig("good", (config) => {
        const crews = config.roomKinds.crews;
        return crews ? { ...config, roomKinds: { crews: { ...crews, graceMs: 200 } } } : config;
      }),
    );
    const ansel = await service.player("Ansel");
    const brisa = await service.player("Brisa");
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ room: room.id });
    const heard: unknown[] = [];
    brisa.on("change", ({ update }) => update && heard.push(update));
    ansel.drop();
    await brisa.until((state) => state.room?.host === brisa.id);
    expect(heard).toEqual([
      { kind: "member-away", player: ansel.id },
      { kind: "member-left", player: ansel.id, reason: "lost", host: brisa.id },
    ]);
  });
});
