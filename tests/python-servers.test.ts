import { spawn, spawnSync } from "node:child_process";
import { createSocket, type Socket as UdpSocket } from "node:dgram";
import { once } from "node:events";
import { connect, type Socket } from "node:net";
import { text } from "node:stream/consumers";
import { fileURLToPath } from "node:url";
import type { PlayerClient } from "@yellow-harbor/client";
import type { Address } from "@yellow-harbor/protocol";
import { loadConfig } from "@yellow-harbor/service";
import { afterEach, describe, expect, it } from "vitest";
import { testPorts } from "../packages/service/src/testing/test-ports.ts";
import {
  endAll,
  startTestService,
  type TestService,
  untilState,
} from "../packages/service/src/testing/test-service.ts";

const FOLDER = fileURLToPath(new URL("../examples/python", import.meta.url));
const hasPython = spawnSync("python3", ["--version"]).status === 0;

afterEach(endAll);

/** The example as it is shipped, on ports of its own. */
async function start(more: { stopInstances?: boolean } = {}): Promise<TestService> {
  const loaded = loadConfig(`${FOLDER}/harbor.yaml`);
  if (!loaded.ok) throw new Error(JSON.stringify(loaded.faults));
  const { config } = loaded;
  const from = testPorts();
  const pools = Object.fromEntries(
    Object.entries(config.pools).map(([name, pool], n) => [
      name,
      { ...pool, max: 3, ports: { from: from + 6 * n, to: from + 6 * n + 5 }, stopMs: 500, portRestMs: 0 },
    ]),
  );
  const own = { ...config, pools, listen: { ...config.listen, port: 0 }, log: { level: "silent" as const, areas: {} } };
  return startTestService(own, { folder: FOLDER, ...more });
}

const LEVELS: Readonly<Record<string, string>> = {
  adopted: "gull-flats",
  spoken: "copper-sound",
  "adopted-udp": "far-light",
  "spoken-udp": "low-water",
};

async function begin(service: TestService, kind: string) {
  const build = "tidewrights-0.3";
  const ansel = await service.player("Ansel", { build });
  const brisa = await service.player("Brisa", { build });
  const { room } = await ansel.openRoom({ kind, capacity: 2 });
  await brisa.joinRoom({ room: room.id });
  await ansel.pickLevel(LEVELS[kind] ?? "");
  await setOut(ansel, brisa);
  return { ansel, brisa };
}

async function setOut(ansel: PlayerClient, brisa: PlayerClient): Promise<void> {
  await Promise.all([ansel.setReady(true), brisa.setReady(true)]);
  await ansel.start();
}

/** Connects, says its first line, and resolves once it is welcome. */
function enter({ host, port }: { host: string; port: number }, first: string): Promise<Socket> {
  return new Promise((resolve, reject) => {
    const socket = connect(port, host, () => socket.write(`${first}\n`));
    socket.once("error", reject).once("data", (data) => {
      if (String(data).startsWith("welcome")) resolve(socket);
      else reject(new Error(String(data)));
    });
  });
}

/** Sends a datagram until one comes back that begins as it should: datagrams are lost now and then. */
async function enterUdp({ host, port, transport }: Address, first: string): Promise<UdpSocket> {
  expect(transport).toBe("udp");
  const socket = createSocket("udp4");
  socket.connect(port, host);
  await once(socket, "connect");
  const again = setInterval(() => socket.send(first), 500);
  socket.send(first);
  const [answer] = (await once(socket, "message")) as [Buffer];
  clearInterval(again);
  expect(String(answer)).toMatch(/^welcome/);
  return socket;
}

/** How the first instance was found to be up. */
async function openedWith({ operator }: TestService): Promise<unknown> {
  const { events } = await operator.journal({ kind: "instance.opened", limit: 1 });
  return events[0]?.event.detail;
}

describe.skipIf(!hasPython)("a server in Python", () => {
  it("that knows nothing of the service is adopted by what it prints, for one match after the other", async () => {
    const service = await start();
    const { ansel, brisa } = await begin(service, "adopted");
    const { address, instance = "" } = await ansel.nextPass();
    const [one, other] = await Promise.all([enter(address, "Ansel"), enter(address, "Brisa")]);
    await ansel.until((state) => state.room?.phase === "playing");
    one.write("finish\n");
    const { room } = await ansel.until((state) => state.room?.phase === "results");
    expect(room?.result?.note).toBe("its output says that the match is over");
    for (const socket of [one, other]) socket.destroy();
    await ansel.until((state) => state.room?.phase === "gathering");
    await setOut(ansel, brisa);
    const again = await ansel.nextPass();
    expect(again.instance).toBe(instance);
    // The lines of who left the match before count for nothing in this one.
    await Promise.all([enter(again.address, "Ansel"), enter(again.address, "Brisa")]);
    await ansel.until((state) => state.room?.phase === "playing");
    const seen = await service.operator.instance(instance);
    expect(seen.berths.map(({ name, state }) => `${name} ${state}`)).toEqual(["Ansel taken", "Brisa taken"]);
    expect(seen.differences).toBeUndefined();
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const { instances } = await untilState(service.operator, (state) => state.instances[instance]?.exit !== undefined);
    expect(instances[instance]).toMatchObject({ state: "ended", exit: { code: 0 } });
    let found = "";
    for await (const text of service.operator.output(instance, { find: "MATCH over" })) found += text;
    expect(found).toBe("match over, Ansel won\n");
  });

  it("that is adopted is heard on across a restart of the service: no line twice, none lost", async () => {
    let service = await start({ stopInstances: false });
    const { ansel, brisa } = await begin(service, "adopted");
    const { address, instance = "" } = await ansel.nextPass();
    await enter(address, "Ansel");
    await untilState(
      service.operator,
      ({ instances }) =>
        instances[instance]?.berths.some(({ name, state }) => name === "Ansel" && state === "taken") ?? false,
    );
    service = await service.restart({ stopInstances: true });
    await enter(address, "Brisa");
    await brisa.until((state) => state.room?.phase === "playing", 15_000);
    const { events } = await service.operator.journal({ kind: "instance.boarded", limit: 100 });
    expect(events.map(({ event }) => event.name)).toEqual(["Ansel", "Brisa"]);
  });

  it("and a player, each written from its page, play whole voyages: cut connections, a queue, every frame checked", async () => {
    const service = await start();
    const player = spawn("python3", [`${FOLDER}/player.py`, service.url], { stdio: ["ignore", "pipe", "pipe"] });
    const [out, err, [code]] = await Promise.all([
      text(player.stdout),
      text(player.stderr),
      once(player, "exit") as Promise<[number | null]>,
    ]);
    expect(err).toBe("");
    expect(code).toBe(0);
    expect(out.split("\n").map((line) => line.split(":")[0])).toEqual([
      ...["one voyage", "a voyage with cut connections", "a search", "done", ""],
    ]);
  });

  it("that speaks UDP and knows nothing of the service is adopted: by its answer to a query, and by what it prints", async () => {
    const service = await start();
    const { ansel, brisa } = await begin(service, "adopted-udp");
    const { address, instance = "" } = await ansel.nextPass();
    const seen = await service.operator.instance(instance);
    expect(seen.transports).toEqual({ query: "udp" });
    expect(await openedWith(service)).toMatch(/^reached at attempt \d+ after \d+ ms, with \d+ bytes$/);
    const [one, other] = await Promise.all([enterUdp(address, "join Ansel"), enterUdp(address, "join Brisa")]);
    await ansel.until((state) => state.room?.phase === "playing");
    for (const _ of [1, 2]) one.send("point");
    await once(one, "message");
    await once(one, "message");
    one.send("finish");
    const { room } = await brisa.until((state) => state.room?.phase === "results");
    expect(room?.result).toMatchObject({
      note: "its output says that the match is over",
      standings: [{ player: ansel.id, rank: 1, score: 2 }],
    });
    for (const socket of [one, other]) socket.close();
  });

  it("that speaks UDP and the protocol boards passes that come as datagrams", async () => {
    const service = await start();
    const { ansel, brisa } = await begin(service, "spoken-udp");
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    expect(await openedWith(service)).toBe("ready by its own word; it speaks UDP, and its build has no probe");
    const [one, other] = await Promise.all([enterUdp(a.address, a.pass), enterUdp(b.address, b.pass)]);
    await ansel.until((state) => state.room?.phase === "playing");
    one.send("finish");
    const { room } = await brisa.until((state) => state.room?.phase === "results");
    expect(room?.result?.standings[0]).toMatchObject({ player: ansel.id, rank: 1 });
    for (const socket of [one, other]) socket.close();
  });

  it("that speaks the protocol by plain HTTP boards passes, reports, and says goodbye", async () => {
    const service = await start();
    const { ansel, brisa } = await begin(service, "spoken");
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    await expect(enter(a.address, "no pass at all")).rejects.toThrow("refused");
    const one = await enter(a.address, a.pass);
    await enter(b.address, b.pass);
    await ansel.until((state) => state.room?.phase === "playing");
    one.write("finish\n");
    const { room } = await brisa.until((state) => state.room?.phase === "results");
    expect(room?.result?.standings[0]).toMatchObject({ player: ansel.id, rank: 1 });
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    const id = a.instance ?? "";
    const { instances } = await untilState(service.operator, (state) => state.instances[id]?.exit !== undefined);
    expect(instances[id]).toMatchObject({ state: "ended", exit: { code: 0 } });
  });
});
