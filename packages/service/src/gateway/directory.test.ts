import type { RoomListing } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

type Service = Awaited<ReturnType<typeof startTestService>>;
type Player = Awaited<ReturnType<Service["player"]>>;

/** Resolves once the followed directory fits. */
function untilDirectory(player: Player, fits: (rooms: readonly RoomListing[]) => boolean): Promise<void> {
  return new Promise((resolve) => {
    if (fits(player.directory?.rooms ?? [])) return resolve();
    const off = player.on("directory", ({ rooms }) => {
      if (!fits(rooms)) return;
      off();
      resolve();
    });
  });
}

describe("a followed directory", () => {
  it("begins with what there is, possibly nothing, and is told what comes, changes and goes", async () => {
    const service = await startTestService();
    const [corin, ansel, brisa] = (await Promise.all(
      ["Corin", "Ansel", "Brisa"].map((name) => service.player(name)),
    )) as [Player, Player, Player];
    await corin.followRooms();
    expect(corin.directory).toEqual({ rooms: [], total: 0 });
    const { room } = await ansel.openRoom({ capacity: 2 });
    await untilDirectory(corin, (rooms) => rooms[0]?.id === room.id && rooms[0].members === 1);
    await brisa.joinRoom({ room: room.id });
    await untilDirectory(corin, (rooms) => rooms[0]?.members === 2 && !rooms[0].isOpen);
    await ansel.leaveRoom();
    await untilDirectory(corin, (rooms) => rooms[0]?.host === "Brisa");
    await brisa.leaveRoom();
    await untilDirectory(corin, (rooms) => rooms.length === 0);
    expect(corin.directory?.total).toBe(0);
  });

  it("shows only what fits its filter: a room that stops fitting goes, and one that begins to comes", async () => {
    const service = await startTestService();
    const [corin, ansel] = (await Promise.all(["Corin", "Ansel"].map((name) => service.player(name)))) as [
      Player,
      Player,
    ];
    await corin.followRooms({ filter: { settings: { weather: "fog" }, open: true } });
    const { room } = await ansel.openRoom();
    await ansel.changeRoom({ settings: { weather: "fog" } });
    await untilDirectory(corin, (rooms) => rooms.some(({ id }) => id === room.id));
    await ansel.changeRoom({ visibility: "locked" });
    await untilDirectory(corin, (rooms) => rooms.length === 0);
  });

  it("holds at most as many as one wants; the next one moves up when one goes", async () => {
    const service = await startTestService();
    const hosts = await Promise.all(["Ansel", "Brisa", "Dovie"].map((name) => service.player(name)));
    const opened: string[] = [];
    for (const host of hosts) opened.push((await host.openRoom()).room.id);
    const corin = await service.player("Corin");
    await corin.followRooms({ limit: 2 });
    expect(corin.directory).toMatchObject({ total: 3, rooms: [{ id: opened[0] }, { id: opened[1] }] });
    await hosts[0]?.leaveRoom();
    await untilDirectory(corin, (rooms) => rooms.map(({ id }) => id).join() === opened.slice(1).join());
    expect(corin.directory?.total).toBe(2);
  });

  it("gives a second follower the same, and is silent after one has stopped", async () => {
    const service = await startTestService();
    const [corin, dovie, ansel] = (await Promise.all(
      ["Corin", "Dovie", "Ansel"].map((name) => service.player(name)),
    )) as [Player, Player, Player];
    await corin.followRooms();
    await ansel.openRoom();
    await dovie.followRooms();
    await untilDirectory(corin, (rooms) => rooms.length === 1);
    expect(dovie.directory).toEqual(corin.directory);
    await corin.unfollowRooms();
    let heard = 0;
    corin.on("directory", () => heard++);
    await ansel.changeRoom({ name: "Low water" });
    await untilDirectory(dovie, (rooms) => rooms[0]?.name === "Low water");
    expect(heard).toBe(0);
  });

  it("is read a page at a time as well, by HTTP-like cursors", async () => {
    const service = await startTestService();
    for (const name of ["Ansel", "Brisa", "Dovie"]) await (await service.player(name)).openRoom({ name: `${name}'s` });
    const corin = await service.player("Corin");
    const first = await corin.listRooms({ sort: "oldest", limit: 2 });
    const second = await corin.listRooms({ sort: "oldest", limit: 2, ...(first.next && { after: first.next }) });
    expect([...first.rooms, ...second.rooms].map(({ host }) => host)).toEqual(["Ansel", "Brisa", "Dovie"]);
    expect(second.next).toBeUndefined();
    await expect(corin.listRooms({ limit: 201 })).rejects.toMatchObject({ code: "request-invalid" });
  });
});

describe("chat in the lobby", () => {
  const talking = testConfig(undefined, (config) => {
    const { quayside } = config.lobbies;
    return quayside ? { ...config, lobbies: { quayside: { ...quayside, chat: { perSecond: 1 } } } } : config;
  });

  it("reaches everybody in it and nobody in a room", async () => {
    const service = await startTestService(talking);
    const [ansel, brisa, corin] = (await Promise.all(
      ["Ansel", "Brisa", "Corin"].map((name) => service.player(name)),
    )) as [Player, Player, Player];
    await corin.openRoom();
    let inRoom = 0;
    corin.on("chat", () => inRoom++);
    const heard = new Promise((resolve) => brisa.on("chat", ({ name, text }) => resolve({ name, text })));
    expect(await ansel.chat("  Who has stones? ")).toEqual({ delivered: 2 });
    expect(await heard).toEqual({ name: "Ansel", text: "Who has stones?" });
    await expect(corin.chat("anybody?")).rejects.toMatchObject({ code: "wrong-phase" });
    expect(inRoom).toBe(0);
  });

  it("is limited, checked, and off where the lobby does not have it", async () => {
    const service = await startTestService(talking);
    const ansel = await service.player("Ansel");
    await expect(ansel.chat("left \u202e right")).rejects.toMatchObject({ code: "request-invalid" });
    const said = await Promise.allSettled(Array.from({ length: 8 }, (_, n) => ansel.chat(`line ${n}`)));
    expect(said.filter(({ status }) => status === "fulfilled").length).toBeLessThan(8);
    expect(said.at(-1)).toMatchObject({ reason: { code: "chat-too-fast" } });
    const silent = await startTestService();
    await expect((await silent.player("Brisa")).chat("hello")).rejects.toMatchObject({ code: "chat-off" });
  });
});
