import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { inspectBackup } from "../serve.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  type TestService,
  temporaryFolder,
  testConfig,
} from "../testing/test-service.ts";
import { DATABASE_FILE } from "./files.ts";

afterEach(endAll);

const config = testConfig("good", (one) => ({
  ...one,
  lobbies: { quayside: { ...one.lobbies["quayside"], uniqueNames: true } } as typeof one.lobbies,
  roomKinds: Object.fromEntries(
    Object.entries(one.roomKinds).map(([id, kind]) => [id, { ...kind, spectators: { max: 4, delayMs: 0 } }]),
  ),
  journal: { ...one.journal, snapshotEvery: 100 },
}));
const DEVICE = "device-key-of-somebody-who-goes-0001";

/** Somebody who came twice, gathered, and told others its name; and another who stays. */
async function scene() {
  const service = await startTestService(config);
  const first = await service.player("Zephyrine", { device: DEVICE });
  const account = first.account ?? "";
  const { room } = await first.openRoom({ name: "Zephyrine's crew" });
  const other = await service.player("Brisa");
  await other.joinRoom({ room: room.id });
  const { party } = await other.parties.open();
  await first.parties.join({ code: party.code });
  await first.leaveRoom();
  await first.watchRoom({ room: room.id });
  await first.joinRoom({ room: room.id });
  for (let n = 0; n < 70; n++) await first.setReady(n % 2 === 0);
  await first.leaveRoom();
  await first.leave();
  // By the account, which stands in the keys of what is kept for it as well.
  await other.parties.invite({ account });
  await other.inviting.invite({ account });
  for (let n = 0; n < 100; n++) await other.setReady(n % 2 === 0);
  const second = await service.player("Zephyrine", { device: DEVICE });
  await second.joinRoom({ room: room.id });
  await second.leaveRoom();
  return { service, account, players: [first.id, second.id], room, other };
}

const bytesOf = (service: TestService) =>
  [DATABASE_FILE, `${DATABASE_FILE}-wal`].map((name) => readFileSync(join(service.data, name), "latin1")).join("");

/** What stands around a word in the files, when it is there. */
function contextOf(service: TestService, word: string): string {
  const bytes = bytesOf(service);
  const at = bytes.indexOf(word);
  return at < 0 ? "" : bytes.slice(at - 200, at + 100).replace(/[^\x20-\x7e]/g, ".");
}

describe("what is kept of a person", () => {
  it("is given out whole: as whom it was here, what names it, and what of it is present", async () => {
    const { service, account, players } = await scene();
    const kept = await service.operator.exportPerson(account);
    expect(kept).toMatchObject({
      account,
      players,
      names: ["Zephyrine"],
      present: [{ id: players[1], account }],
      more: false,
    });
    const kinds = new Set(kept.events.map(({ kind }) => kind));
    for (const kind of ["player.connected", "lobby.joined", "room.opened", "room.departed", "player.left"]) {
      expect(kinds, kind).toContain(kind);
    }
    expect(await service.operator.exportPerson(players[0] ?? "")).toMatchObject({ account, players });
    expect(await service.operator.exportPerson("game:nobody")).toMatchObject({ players: [], events: [] });
  });

  it("is replaced everywhere, in a journal that is whole afterwards, and in which all others are as they were", async () => {
    const { service, account, players, room, other } = await scene();
    expect(bytesOf(service)).toContain("Zephyrine");
    expect(bytesOf(service)).toContain(account);
    const erased = await service.operator.erasePerson(account);
    expect(erased).toMatchObject({ players, events: expect.any(Number) });
    expect(erased.events).toBeGreaterThan(10);
    expect(contextOf(service, "Zephyrine")).toBe("");
    expect(contextOf(service, account)).toBe("");
    expect((await service.operator.exportPerson(account)).events).toEqual([]);
    // Who is there notices nothing, and what is looked back at is told of somebody without a name.
    expect(other.state.room?.id).toBe(room.id);
    await other.setReady(true);
    const past = await service.operator.history(room.id);
    expect(JSON.stringify(past)).not.toContain("Zephyrine");
    expect(past.story.map(({ text }) => text).join(" ")).toMatch(/erased/);

    const file = join(temporaryFolder(), "copy.sqlite");
    const parts: Uint8Array[] = [];
    for await (const part of service.operator.backup()) parts.push(part);
    writeFileSync(file, Buffer.concat(parts));
    expect(await inspectBackup(file)).toMatchObject({ players: 1, rooms: 1 });
    // Started from the events alone, and from a snapshot.
    const again = await service.restart();
    expect((await again.operator.players()).players.map(({ name }) => name)).toEqual(["Brisa"]);
    expect((await again.operator.status()).journal.fault).toBeUndefined();
    // It may come again, as somebody new.
    expect((await again.player("Zephyrine", { device: DEVICE })).account).toBe(account);
  });

  it("of a guest without a key is found by the id of its player, and goes while a match is played", async () => {
    const service = await startTestService(config);
    const { ansel, brisa } = await startVoyage(service);
    await ansel.nextPass();
    const ended = new Promise((resolve) => ansel.on("ended", resolve));
    expect((await service.operator.erasePerson(ansel.id)).players).toEqual([ansel.id]);
    expect(await ended).toMatchObject({ problem: { code: "kicked" } });
    expect(contextOf(service, "Ansel")).toBe("");
    await brisa.until((state) => state.room?.host === brisa.id);
    const again = await service.restart();
    expect((await again.operator.players()).players.map(({ name }) => name)).toEqual(["Brisa"]);
  });
});
