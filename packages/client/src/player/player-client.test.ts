import { type AddressInfo, createServer } from "node:net";
import { type Problem, problem as problemOf } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { endFakes, type Frame, fakeService } from "../testing/fake-service.ts";
import { lobby, room, update, welcome } from "../testing/frames.ts";
import { PlayerClient } from "./player-client.ts";
import { platformSocket } from "./socket.ts";

afterEach(endFakes);

describe("a player's client", () => {
  it("gives up a connection that is taken and never answered, and says so", async () => {
    const mute = createServer(() => undefined);
    await new Promise<void>((resolve) => mute.listen(0, "127.0.0.1", resolve));
    const url = `http://127.0.0.1:${(mute.address() as AddressInfo).port}`;
    const connecting = PlayerClient.connect({ url, name: "Ansel", build: "game-1", patienceMs: 1_000 });
    await expect(connecting).rejects.toMatchObject({ code: "service-unreachable" });
    mute.close();
  });

  it("says hello with the name, and after a lost connection with the token", async () => {
    const { frames, connect } = await fakeService((frame, say, socket, connection) => {
      if (frame.frame === "hello") say(welcome());
      if (frame.frame === "request" && connection === 1) socket.terminate();
    });
    const player = await connect();
    const resumed = new Promise((resolve) => player.on("resumed", resolve));
    await expect(player.listLevels()).rejects.toMatchObject({ code: "service-unreachable" });
    await resumed;
    expect(frames.filter((frame) => frame.frame === "hello").map(({ name, resume }) => [name, resume])).toEqual([
      ["Ansel", undefined],
      [undefined, "token"],
    ]);
  });

  it("matches replies to requests whatever their order", async () => {
    const held: number[] = [];
    const { connect } = await fakeService((frame, say) => {
      if (frame.frame === "hello") return say(welcome());
      held.push(frame.id ?? 0);
      if (held.length === 2) for (const id of held.reverse()) say({ frame: "reply", id, reply: { revision: id } });
    });
    const player = await connect();
    expect(await Promise.all([player.setReady(true), player.setReady(false)])).toEqual([
      { revision: 1 },
      { revision: 2 },
    ]);
  });

  it("takes the reply's state before an update that comes in the same read", async () => {
    const { connect } = await fakeService((frame, say) => {
      if (frame.frame === "hello") return say(welcome());
      say({ frame: "reply", id: frame.id, reply: { room: room(4) } });
      say(update(5, { phase: "counting" }));
      say(update(6, { phase: "travelling" }));
    });
    const player = await connect();
    await player.openRoom();
    const { room: held } = await player.until((state) => state.room?.revision === 6);
    expect(held?.phase).toBe("travelling");
  });

  it("fetches a fresh state when an update is missing, instead of going on with a wrong one", async () => {
    const { connect } = await fakeService((frame, say, _socket, connection) => {
      if (frame.frame !== "hello") return;
      say(welcome({ room: room(connection === 1 ? 4 : 9) }));
      if (connection === 1) say(update(7, { phase: "playing" }));
    });
    const player = await connect();
    await player.until((state) => state.room?.revision === 9);
    expect(player.state.room?.phase).toBe("gathering");
  });

  it.each([
    ["kicked", 4412],
    ["taken-over", 4409],
    ["build-unsupported", 4427],
  ])("does not come back after %s", async (code, close) => {
    const { frames, connect } = await fakeService((frame, say, socket) => {
      if (frame.frame === "hello") return say(welcome());
      const problem = { type: "", title: "", status: 403, code, detail: `because of ${code}` };
      say({ frame: "closing", problem });
      socket.close(close, code);
    });
    const player = await connect();
    const ended = new Promise<{ problem: Problem | undefined }>((resolve) => player.on("ended", resolve));
    await expect(player.start()).rejects.toMatchObject({ code, message: `because of ${code}` });
    expect((await ended).problem?.code).toBe(code);
    expect(frames.filter((frame) => frame.frame === "hello")).toHaveLength(1);
    await expect(player.until(() => false, 50)).rejects.toMatchObject({ code: "travel-deadline" });
  });

  it("comes back after shutting-down, and gives up after so many attempts", async () => {
    const { frames, connect } = await fakeService((frame, say, socket, connection) => {
      if (frame.frame === "hello" && connection === 1) return say(welcome());
      socket.close(4500, "shutting-down");
    });
    const player = await connect({ reconnect: { firstMs: 5, maxMs: 5, attempts: 3 } });
    const ended = new Promise<{ problem: Problem | undefined }>((resolve) => player.on("ended", resolve));
    await expect(player.start()).rejects.toMatchObject({ code: "shutting-down" });
    expect((await ended).problem?.code).toBe("shutting-down");
    expect(frames.filter((frame) => frame.frame === "hello")).toHaveLength(4);
  });

  it("tries on at the pace that a stopping service has named, and does not count those attempts", async () => {
    const closing = problemOf("shutting-down", "The service is stopping.", { retryEveryMs: 10 });
    const { frames, connect } = await fakeService((frame, say, socket, connection) => {
      if (frame.frame !== "hello") {
        say({ frame: "closing", problem: closing });
        return socket.close(4500, "shutting-down");
      }
      if (connection === 1 || connection === 6) return say(welcome());
      socket.close(4500, "shutting-down");
    });
    const player = await connect({ reconnect: { firstMs: 60_000, attempts: 2 } });
    const attempts: unknown[] = [];
    player.on("lost", ({ attempt, inMs }) => attempts.push([attempt, inMs >= 5 && inMs <= 15]));
    const resumed = new Promise((resolve) => player.on("resumed", resolve));
    await expect(player.start()).rejects.toMatchObject({ code: "shutting-down" });
    await resumed;
    expect(frames.filter((frame) => frame.frame === "hello")).toHaveLength(6);
    expect(attempts).toEqual(Array.from({ length: 5 }, () => [1, true]));
  });

  it("rejects what is not answered in time", async () => {
    const { connect } = await fakeService((frame, say) => frame.frame === "hello" && say(welcome()));
    const player = await connect({ patienceMs: 1_000 });
    await expect(player.start()).rejects.toMatchObject({
      code: "service-unreachable",
      message: expect.stringContaining("room.start within 1 s"),
    });
  });

  it("says what is wrong when nothing answers", async () => {
    await expect(
      PlayerClient.connect({ url: "http://127.0.0.1:1", name: "Ansel", build: "game-1" }),
    ).rejects.toMatchObject({
      code: "service-unreachable",
      message: expect.stringMatching(/ws:\/\/127\.0\.0\.1:1\/v1\/play\. Nothing listens there: check that/),
    });
  });

  it("hears relayed messages of its own room alone", async () => {
    const { connect } = await fakeService((frame, say) => {
      if (frame.frame !== "hello") return say({ frame: "reply", id: frame.id, reply: {} });
      say(welcome({ room: room(1) }));
      for (const id of ["r_000000000002", "r_000000000001"])
        say({ frame: "relayed", room: id, from: "p_000000000002", body: id });
    });
    const heard: unknown[] = [];
    const player = await connect();
    player.on("relayed", ({ body }) => heard.push(body));
    await player.setReady(true);
    expect(heard.filter((body) => body === "r_000000000002")).toEqual([]);
  });

  it("sends heartbeats with its own clock, and measures the echo", async () => {
    const service = await fakeService(
      (frame, say) => {
        if (frame.frame === "hello") say({ ...welcome(), heartbeatEveryMs: 20 });
        if (frame.frame === "heartbeat") say({ frame: "echo", sentMs: frame.sentMs, atMs: 1 });
      },
      { takesHeartbeats: true },
    );
    const player = await service.connect();
    const echoes = await new Promise<number[]>((resolve) => {
      const heard: number[] = [];
      player.on("echo", ({ roundTripMs }) => heard.push(roundTripMs) === 3 && resolve(heard));
    });
    expect(echoes.every((ms) => ms >= 0 && ms < 5_000)).toBe(true);
    const heartbeats = service.frames.filter(({ frame }) => frame === "heartbeat");
    expect(heartbeats[0]).not.toHaveProperty("roundTripMs");
    expect(heartbeats[2]).toMatchObject({ sentMs: expect.any(Number), roundTripMs: expect.any(Number) });
  });

  it("gives a connection up on which nothing comes any more, and resumes", async () => {
    const service = await fakeService((frame, say, _socket, connection) => {
      if (frame.frame !== "hello") return;
      say({ ...welcome(), heartbeatEveryMs: 20, silenceMs: connection === 1 ? 50 : 60_000, resumed: connection > 1 });
    });
    const player = await service.connect();
    const lost = new Promise<string>((resolve) => player.on("lost", ({ problem }) => resolve(problem.code)));
    await new Promise((resolve) => player.on("resumed", resolve));
    expect(await lost).toBe("connection-silent");
    expect(player.isConnected).toBe(true);
  });

  it("goes on trying where a socket cannot even be made, and resumes once one can", async () => {
    const service = await fakeService((frame, say, socket, connection) => {
      if (frame.frame !== "hello") return;
      say(welcome({ resumed: connection > 1 }));
      if (connection === 1) setTimeout(() => socket.terminate(), 20);
    });
    let made = 0;
    const player = await service.connect({
      socket: async (url, subprotocol) => {
        made += 1;
        if (made === 2 || made === 3) throw new Error("no network");
        return platformSocket(url, subprotocol);
      },
    });
    await new Promise((resolve) => player.on("resumed", resolve));
    expect(made).toBe(4);
    const none = () => Promise.reject(new Error("no network"));
    await expect(service.connect({ socket: none })).rejects.toMatchObject({ code: "service-unreachable" });
  });

  it("names the state it holds when it comes back, and goes on from there when the service says so", async () => {
    const service = await fakeService((frame, say, socket, connection) => {
      if (frame.frame !== "hello") return;
      if (connection === 1) {
        say(welcome({ room: room(4) }));
        return setTimeout(() => socket.terminate(), 20);
      }
      say(welcome({ resumed: true, continues: true }));
      say(update(5, { name: "five" }));
      return say(update(6, { name: "six" }));
    });
    const player = await service.connect();
    await player.until((state) => state.room?.name === "six");
    expect(player.state.room?.revision).toBe(6);
    expect(service.frames.at(-1)).toMatchObject({ have: { scope: "room", id: "r_000000000001", revision: 4 } });
  });

  it("keeps a followed directory current, and follows it anew after a resume", async () => {
    const listing = (id: string, members: number) => ({ id, members });
    const service = await fakeService((frame, say, socket, connection) => {
      if (frame.frame === "hello") say(welcome({ lobby, resumed: connection > 1 }));
      if (frame.ask !== "lobby.follow") return;
      const rooms = connection === 1 ? [listing("r_a", 1), listing("r_b", 1)] : [listing("r_c", 2)];
      say({ frame: "reply", id: frame.id, reply: { rooms, total: rooms.length } });
      if (connection > 1) return;
      say({ frame: "directory", changed: [listing("r_b", 2)], gone: ["r_a"], total: 1 });
      setTimeout(() => socket.terminate(), 20);
    });
    const player = await service.connect();
    const seen: string[] = [];
    const all = new Promise<void>((resolve) => {
      player.on("directory", ({ rooms }) => {
        seen.push(rooms.map(({ id, members }) => `${id} ${members}`).join(", "));
        if (seen.length === 3) resolve();
      });
    });
    await player.followRooms({ filter: { freePlaces: 1 } });
    await all;
    expect(seen).toEqual(["r_a 1, r_b 1", "r_b 2", "r_c 2"]);
    expect(service.frames.filter(({ ask }) => ask === "lobby.follow")).toHaveLength(2);
  });
});

describe("a client of a service that is newer", () => {
  const greets = (frame: Frame, say: (frame: object) => void, more: () => void) => {
    if (frame.frame !== "hello") return;
    say(welcome({ room: { ...room(1), tides: "high" }, weather: [] }));
    more();
  };

  it("passes over frames and events that it does not know, and applies their patches", async () => {
    const { connect } = await fakeService((frame, say) =>
      greets(frame, say, () => {
        say({ frame: "weather", wind: 7 });
        say({ frame: "update", scope: "you", revision: 1, event: { kind: "medal", of: "gold" } });
        say({ ...update(2, { phase: "counting", tides: null }), event: { kind: "tide-turned", by: "the moon" } });
      }),
    );
    const player = await connect();
    const { room: seen } = await player.until(({ room }) => room?.phase === "counting");
    expect(seen).toMatchObject({ revision: 2, code: "K7RDM" });
    expect(player.isConnected).toBe(true);
  });

  it.each([
    ["a problem that may pass", { code: "tide-high", status: 503 }, 2],
    ["a problem that will not", { code: "tide-gone", status: 410 }, 1],
  ])("goes by the status of %s", async (_name, problem, connections) => {
    let count = 0;
    const { connect } = await fakeService((frame, say, socket, connection) => {
      count = connection;
      greets(frame, say, () => {
        if (connection > 1) return;
        say({ frame: "closing", problem: { type: "urn:x", title: "x", detail: "x", ...problem } });
        socket.close(4499, problem.code);
      });
    });
    const player = await connect();
    await new Promise((resolve) => {
      player.on("resumed", resolve);
      player.on("ended", resolve);
    });
    expect(count).toBe(connections);
  });

  it("that is dropped while it comes back has no connection left, and says nothing more", async () => {
    let gone: (code: number) => void = () => undefined;
    const closed = new Promise<number>((resolve) => {
      gone = resolve;
    });
    const service = await fakeService((frame, say, socket, connection) => {
      if (frame.frame !== "hello") return;
      if (connection === 1) {
        say(welcome());
        return setTimeout(() => socket.terminate(), 20);
      }
      socket.on("close", (code) => gone(code));
      player.drop();
      say(welcome({ resumed: true }));
    });
    const player = await service.connect();
    const resumed: unknown[] = [];
    player.on("resumed", (one) => resumed.push(one));
    expect(await closed).toBe(1000);
    expect([player.isConnected, resumed]).toEqual([false, []]);
  });

  it("does not come back after a close that it does not know", async () => {
    const { connect } = await fakeService((frame, say, socket) => greets(frame, say, () => socket.close(4499, "tide")));
    const player = await connect();
    const ended = await new Promise<{ problem: Problem | undefined }>((resolve) => player.on("ended", resolve));
    expect(ended.problem?.code).toBe("answer-unexpected");
  });
});
