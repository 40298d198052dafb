import { createSocket } from "node:dgram";
import { once } from "node:events";
import type { AddressInfo } from "node:net";
import { createServer, type Server, type Socket } from "node:net";
import type { PlayerClient } from "@yellow-harbor/client";
import type { BoardingPass } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { Config } from "../config/schema.ts";
import { endAll, sayToInstance, startTestService, type TestService, testConfig } from "../testing/test-service.ts";

const servers: Server[] = [];
afterEach(async () => {
  for (const server of servers.splice(0)) server.close();
  await endAll();
});

type Kind = Partial<Config["roomKinds"][string]>;

/** A service whose one room kind goes about travelling in a way of its own. */
const start = (kind: Kind, more: Partial<Config["travel"]> = {}): Promise<TestService> =>
  startTestService(
    testConfig(undefined, (config) => {
      const { crews } = config.roomKinds;
      if (crews === undefined) throw new Error("the test configuration has no crews");
      const levels = { ...config.levels, "old-slip": { title: "Old Slip", players: { min: 1, max: 6 } } };
      return {
        ...config,
        levels: levels as Config["levels"],
        roomKinds: { crews: { ...crews, levels: ["brine-gate", "old-slip"], ...kind } },
        travel: { ...config.travel, ...more },
      };
    }),
  );

/** Players in one room, everything ready, started. */
async function started(service: TestService, names: readonly string[], level = "brine-gate"): Promise<PlayerClient[]> {
  const players = await Promise.all(names.map((name) => service.player(name)));
  const [host, ...others] = players as [PlayerClient, ...PlayerClient[]];
  const { room } = await host.openRoom({ capacity: 4 });
  for (const other of others) await other.joinRoom({ room: room.id });
  await host.pickLevel(level);
  await Promise.all(players.map((player) => player.setReady(true)));
  await host.start();
  return players;
}

const boarding = (player: PlayerClient, by: string) =>
  player.until(({ room }) => room?.travel?.by === by && room.travel.step === "boarding");
const playing = (player: PlayerClient) => player.until(({ room }) => room?.phase === "playing");
const refused = (asked: Promise<unknown>) =>
  asked.then(
    () => "not refused",
    (error: { code: string }) => error.code,
  );

/** A member's own little server: takes a line with a pass, asks the service about it, answers with the place. */
async function openWorld(host: PlayerClient): Promise<number> {
  const server = createServer((socket: Socket) => {
    socket.setEncoding("utf8");
    socket.on("error", () => socket.destroy());
    socket.on("data", (line: string) => {
      host.travel.board(line.trim()).then(
        ({ player }) => socket.end(`place ${player.place}\n`),
        (error: { code: string }) => socket.end(`${error.code}\n`),
      );
    });
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return (server.address() as AddressInfo).port;
}

async function show({ address, pass }: BoardingPass): Promise<string> {
  const { connect } = await import("node:net");
  return new Promise((resolve, reject) => {
    const socket = connect(address.port, address.host, () => socket.write(`${pass}\n`));
    let text = "";
    socket.setEncoding("utf8");
    socket.on("data", (part) => {
      text += part;
    });
    socket.on("end", () => resolve(text.trim()));
    socket.on("error", reject);
  });
}

describe("a travel that the service relays", () => {
  it("is called, loaded, arrived at and begun, and all see how far each is", async () => {
    const service = await start({ destinations: ["relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await boarding(brisa, "relayed");
    await ansel.travel.progress(30.7);
    await ansel.travel.progress(30.9);
    const { room } = await brisa.until((state) => state.room?.travel?.travellers[ansel.id]?.percent === 30);
    expect(room?.travel?.waitingFor).toEqual([ansel.id, brisa.id]);
    const run = room?.run ?? "";
    expect(await refused(ansel.ask("travel.progress", { run, percent: 29 }))).toBe("progress-backwards");
    expect(await refused(ansel.ask("travel.progress", { run, percent: 101 }))).toBe("request-invalid");
    await ansel.travel.arrive();
    expect(await refused(ansel.travel.arrive())).toBe("arrived-already");
    await brisa.travel.arrive();
    await Promise.all([ansel, brisa].map(playing));
    expect(await refused(ansel.travel.abort())).toBe("travel-over");
  });

  it("tells an operator whom it waits for, and is given up by one", async () => {
    const service = await start({ destinations: ["relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await boarding(brisa, "relayed");
    const { id } = (await boarding(ansel, "relayed")).room ?? { id: "" };
    await ansel.travel.arrive();
    await brisa.travel.progress(62);
    const explained = await service.operator.explainTravel(id);
    expect(explained.waitingFor).toMatchObject([{ name: "Brisa", percent: 62, why: "has loaded 62 %" }]);
    expect(explained.next?.text).toContain("brings the room back to gathering");
    await service.operator.abortTravel(id, "maintenance");
    const { room } = await brisa.until((state) => state.room?.phase === "gathering");
    expect(room?.setback).toMatchObject({ code: "travel-aborted", detail: "An operator gave it up: maintenance" });
    expect(Object.values(room?.members ?? {}).map(({ ready }) => ready)).toEqual([true, true]);
    expect((await service.operator.explainTravel(id)).text).toEqual([expect.stringContaining("is not travelling")]);
  });

  it("does not wait for who is lost or in the background where it goes without, and lets both follow", async () => {
    const service = await start({ destinations: ["relayed"], stragglers: "go-without" });
    const [ansel, brisa, corin, dovie] = (await started(service, ["Ansel", "Brisa", "Corin", "Dovie"])) as [
      ...[PlayerClient, PlayerClient, PlayerClient, PlayerClient],
    ];
    await Promise.all([ansel, brisa, corin, dovie].map((player) => boarding(player, "relayed")));
    await corin.setBackground(true);
    const { resumeToken } = dovie;
    dovie.drop();
    await ansel.until(({ room }) => room?.travel?.waitingFor.length === 2);
    await Promise.all([ansel.travel.arrive(), brisa.travel.arrive()]);
    await playing(ansel);
    await corin.travel.arrive();
    await ansel.until(({ room }) => room?.members[corin.id]?.aboard === true);
    const back = await service.player("Dovie", { resume: resumeToken });
    expect(back.state.room?.phase).toBe("playing");
    await back.travel.arrive();
    await ansel.until(({ room }) => room?.members[dovie.id]?.aboard === true);
  });

  it("removes who is late, with the reason, where stragglers are dropped", async () => {
    const service = await start({ destinations: ["relayed"], stragglers: "drop" }, { boardMs: 600 });
    const [ansel, brisa, corin] = (await started(service, ["Ansel", "Brisa", "Corin"])) as [
      ...[PlayerClient, PlayerClient, PlayerClient],
    ];
    await Promise.all([ansel, brisa].map((player) => boarding(player, "relayed")));
    const told = new Promise((resolve) => corin.on("outOfRoom", resolve));
    await Promise.all([ansel.travel.arrive(), brisa.travel.arrive()]);
    expect(await told).toMatchObject({ cause: "late" });
    const { room } = await playing(ansel);
    expect(Object.keys(room?.members ?? {})).toEqual([ansel.id, brisa.id]);
    expect(corin.state.lobby?.id).toBe("quayside");
  });

  it("shows a game that has fallen silent while its computer still answers", async () => {
    const config = testConfig(undefined, (parsed) => ({
      ...parsed,
      players: { ...parsed.players, heartbeatEveryMs: 100, silenceMs: 2_000 },
    }));
    const service = await startTestService(config);
    const ansel = await service.player("Ansel");
    const { room } = await ansel.openRoom({ capacity: 2 });
    const { WebSocket } = await import("ws");
    const socket = new WebSocket(`${service.url.replace("http", "ws")}/v1/play`, ["yellow-harbor.1"]);
    // It answers pings by itself, and sends one heartbeat and then no more.
    socket.on("open", () => socket.send(JSON.stringify({ frame: "hello", wire: 1, build: "game-1", name: "Brisa" })));
    socket.once("message", () => {
      socket.send(JSON.stringify({ frame: "heartbeat", sentMs: 0 }));
      socket.send(JSON.stringify({ frame: "request", id: 1, ask: "room.join", args: { room: room.id } }));
    });
    const silent = await ansel.until((state) =>
      Object.values(state.room?.members ?? {}).some(({ attention }) => attention === "silent"),
    );
    expect(Object.values(silent.room?.members ?? {}).map(({ presence }) => presence)).toEqual(["here", "here"]);
    socket.send(JSON.stringify({ frame: "heartbeat", sentMs: 1 }));
    await ansel.until((state) => Object.values(state.room?.members ?? {}).every((one) => one.attention === undefined));
    socket.terminate();
  });
});

describe("a travel to an instance", () => {
  it("tells the instance to begin without who is lost, and lets it follow with a pass of its own", async () => {
    const service = await start({ stragglers: "go-without" });
    const [ansel, brisa, corin] = (await started(service, ["Ansel", "Brisa", "Corin"])) as [
      ...[PlayerClient, PlayerClient, PlayerClient],
    ];
    const [a, b] = await Promise.all([ansel, brisa, corin].map((player) => player.nextPass()));
    const { resumeToken } = corin;
    corin.drop();
    for (const pass of [a, b]) if (pass) await sayToInstance(pass.address, pass.pass);
    const { room } = await playing(ansel);
    expect(room?.members[corin.id]?.aboard).toBeUndefined();
    const instructions = async () =>
      (await sayToInstance(a?.address ?? { host: "", port: 0 }, "instructions")).body.instructions;
    await vi.waitUntil(async () => ((await instructions()) as string[]).includes("match-started"), { timeout: 30_000 });
    const back = await service.player("Corin", { resume: resumeToken });
    const pass = await back.nextPass();
    await vi.waitUntil(async () => ((await instructions()) as string[]).includes("expect-player"), { timeout: 30_000 });
    expect(await sayToInstance(pass.address, pass.pass)).toMatchObject({ status: 200 });
    await ansel.until((state) => state.room?.members[corin.id]?.aboard === true);
  });
});

describe("a travel to a member's world", () => {
  it("is offered, probed from outside, and entered with passes that the member shows to the service", async () => {
    const service = await start({ destinations: ["player-hosted", "relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await ansel.until(({ room }) => room?.travel?.player === ansel.id);
    const port = await openWorld(ansel);
    await ansel.travel.offer([{ port }]);
    const pass = await brisa.nextPass();
    expect(pass).toMatchObject({ player: ansel.id, address: { host: "127.0.0.1", port } });
    expect(pass.instance).toBeUndefined();
    expect(await refused(brisa.travel.arrive())).toBe("arrival-not-yours");
    const { pass: token } = pass;
    expect(await show({ ...pass, pass: `${token.slice(0, -20)}${"A".repeat(20)}` })).toBe("pass-invalid");
    expect(await show(pass)).toBe("place 1");
    expect(await show(pass)).toBe("pass-used");
    await Promise.all([ansel, brisa].map(playing));
    const corin = await service.player("Corin");
    expect(await refused(corin.travel.board(pass.pass))).toBe("pass-foreign");
  });

  it("goes on by relaying when nothing answers at the address, and says so", async () => {
    const service = await start({ destinations: ["player-hosted", "relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await ansel.until(({ room }) => room?.travel?.player === ansel.id);
    const port = await openWorld(ansel);
    await new Promise((resolve) => servers[0]?.close(resolve));
    await ansel.travel.offer([{ host: "127.0.0.1", port }]);
    await boarding(ansel, "relayed");
    const { room } = await boarding(brisa, "relayed");
    expect(room?.travel?.tried).toEqual([
      {
        by: "player-hosted",
        why: expect.stringMatching(
          `^Nothing answers: 127.0.0.1:${port} does not answer in \\d+ attempts over \\d+ ms: nothing listens there.$`,
        ),
      },
    ]);
    await Promise.all([ansel.travel.arrive(), brisa.travel.arrive()]);
    await playing(ansel);
  });

  it("does not look at addresses that are not the member's own, unless it may look at any", async () => {
    const service = await start({ destinations: ["player-hosted", "relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await ansel.until(({ room }) => room?.travel?.player === ansel.id);
    // Nor at what speaks UDP, where nobody has to answer.
    const offered = [
      { host: "127.0.0.2", port: 9 },
      { host: "127.0.0.1", port: 9, transport: "udp" as const },
    ];
    await ansel.travel.offer(offered);
    const { room } = await boarding(brisa, "player-hosted");
    expect(room?.travel?.addresses).toEqual(offered);
    await brisa.travel.trouble("no answer");
    const moved = await boarding(ansel, "relayed");
    expect(moved.room?.travel?.tried[0]?.why).toBe("Brisa cannot reach the world: no answer");
    expect(moved.room?.travel?.addresses).toBeUndefined();
  });

  it("probes a world that speaks UDP by the datagram that the member names, at its own address alone", async () => {
    const service = await start({ destinations: ["player-hosted", "relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await ansel.until(({ room }) => room?.travel?.player === ansel.id);
    const heard: string[] = [];
    const world = createSocket("udp4");
    world.on("message", (asked, from) => {
      heard.push(asked.toString("hex"));
      world.send("here", from.port, from.address);
    });
    world.bind(0, "127.0.0.1");
    await once(world, "listening");
    const { port } = world.address();
    const probe = { send: { hex: "00ff" } };
    expect(await refused(ansel.travel.offer([{ port, probe }]))).toBe("request-invalid");
    await ansel.travel.offer([{ port, transport: "udp", probe }]);
    const { room } = await boarding(brisa, "player-hosted");
    // What it answers to is nobody's business but the service's.
    expect(room?.travel?.addresses).toEqual([{ host: "127.0.0.1", port, transport: "udp" }]);
    expect(room?.travel?.address).toEqual({ host: "127.0.0.1", port, transport: "udp" });
    expect(heard).toContain("00ff");
    world.close();
  });

  it("refuses addresses that are none, that stand for nobody, or that lead back to the service", async () => {
    const service = await start({ destinations: ["player-hosted", "relayed"] });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await Promise.all([ansel, brisa].map((one) => one.until(({ room }) => room?.travel?.player === ansel.id)));
    // For who is not asked no name is even looked up.
    expect(await refused(brisa.travel.offer([{ host: "no-such-name.invalid", port: 7700 }]))).toBe(
      "destination-not-requested",
    );
    const offer = (host: string, port: number) => refused(ansel.travel.offer([{ host, port }]));
    for (const host of [
      "0.0.0.0",
      "224.0.0.1",
      "255.255.255.255",
      "::",
      "ff02::1",
      "1.2.3",
      "0x7f000001",
      "no-such-name.invalid",
    ]) {
      expect(await offer(host, 7700), host).toBe("address-unusable");
    }
    for (const host of ["127.0.0.1", "127.9.9.9", "::1", "::ffff:127.0.0.1", "localhost"]) {
      expect(await offer(host, service.port), host).toBe("address-unusable");
    }
    expect(await offer("not a host", 7700)).toBe("request-invalid");
    expect(await offer("127.0.0.1", 0)).toBe("request-invalid");
    expect(await offer("127.0.0.1", 65_536)).toBe("request-invalid");
    // What was refused leaves the way open for a better one; what was taken is looked at first.
    expect(await offer("127.0.0.2", 7700)).toBe("not refused");
    expect(await offer("127.0.0.2", 7701)).toBe("destination-not-requested");
  });

  it("outlives a restart of the service between offer and probe, and after the barrier", async () => {
    const service = await start({ destinations: ["player-hosted"], lateJoining: "open" });
    const [ansel, brisa] = (await started(service, ["Ansel", "Brisa"])) as [PlayerClient, PlayerClient];
    await ansel.until(({ room }) => room?.travel?.player === ansel.id);
    const port = await openWorld(ansel);
    await ansel.travel.offer([{ port }]);
    const resumed = [ansel, brisa].map((player) => new Promise((resolve) => player.on("resumed", resolve)));
    const again = await service.restart();
    await Promise.all(resumed);
    expect(await show(await brisa.nextPass())).toBe("place 1");
    await Promise.all([ansel, brisa].map(playing));
    const corin = await again.player("Corin");
    await corin.joinRoom({ room: ansel.state.room?.id ?? "" });
    expect(await show(await corin.nextPass())).toBe("place 2");
  });
});
