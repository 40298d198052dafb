import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { SignJWT } from "jose";
import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const SECRET = "planted-secret-of-the-game-back-end-0123456789";
const DEVICE = "device-key-of-a-guest-who-comes-again-1";

/** A service that knows the game's back end, and what that signs. */
async function withAccounts(more: { guests?: boolean; sameAccount?: "refuse"; useOnce?: boolean } = {}) {
  const folder = temporaryFolder();
  writeFileSync(join(folder, "game.secret"), SECRET);
  const { guests = true, sameAccount = "take-over", useOnce = false } = more;
  const issuer = {
    issuer: "https://game.example",
    audience: "harbor",
    algorithms: ["HS256"],
    secretFile: join(folder, "game.secret"),
    useOnce,
    claims: { name: "nick", roles: "roles" },
  };
  const config = testConfig("good", (one) => {
    const lobbies = { quayside: { ...one.lobbies.quayside, guests } };
    const accounts = { sameAccount, issuers: { game: issuer } };
    return Config.parse({ ...one, lobbies, players: { ...one.players, accounts } });
  });
  const service = await startTestService(config);
  const token = (sub: string, claims: object = {}) =>
    new SignJWT({ nick: `Nick ${sub}`, ...claims })
      .setProtectedHeader({ alg: "HS256" })
      .setIssuer("https://game.example")
      .setAudience("harbor")
      .setSubject(sub)
      .setExpirationTime("5m")
      .sign(Buffer.from(SECRET));
  return { service, token };
}

describe("a player with an account", () => {
  it("needs no name of its own, is the same player from another place, and is told so in the first", async () => {
    const { service, token } = await withAccounts();
    const first = await service.player("Ignored", { account: await token("1") });
    expect([first.account, first.name]).toEqual(["game:1", "Nick 1"]);
    const { room } = await first.openRoom();
    const ended = new Promise((resolve) => first.on("ended", resolve));
    const second = await service.player("Ignored", { account: () => token("1") });
    expect([second.id, second.state.room?.id]).toEqual([first.id, room.id]);
    expect(await ended).toMatchObject({ problem: { code: "taken-over" } });
  });

  it("is refused a second time where that is configured, and a guest where none are let in", async () => {
    const { service, token } = await withAccounts({ guests: false, sameAccount: "refuse" });
    await service.player("A", { account: await token("1") });
    await expect(service.player("A", { account: await token("1") })).rejects.toMatchObject({ code: "account-in-use" });
    await expect(service.player("Guest")).rejects.toMatchObject({ code: "account-needed" });
    await expect(service.player("Guest", { device: DEVICE })).rejects.toMatchObject({ code: "account-needed" });
  });

  it("shows a token that is good for one use once, also over a restart", async () => {
    const { service, token } = await withAccounts({ useOnce: true });
    const once = await token("1", { jti: "ticket-1" });
    await service.player("A", { account: once });
    await expect(service.player("A", { account: once })).rejects.toMatchObject({ code: "account-token-used" });
    const again = await service.restart();
    await expect(again.player("A", { account: once })).rejects.toMatchObject({ code: "account-token-used" });
  });
});

describe("a moderator", () => {
  it("has what it does in rooms of others in the audit log, with the reason and the result, before it is answered", async () => {
    const { service, token } = await withAccounts();
    const host = await service.player("Host");
    const { room } = await host.openRoom();
    const rude = await service.player("Rude");
    await rude.joinRoom({ room: room.id });
    const moderator = await service.player("Ignored", { account: await token("9", { roles: ["moderator"] }) });
    await moderator.joinRoom({ room: room.id });
    await moderator.kick(rude.id, { reason: "insults", ban: true });
    await moderator.unban(rude.id);
    await expect(moderator.unban(rude.id)).rejects.toMatchObject({ code: "member-unknown" });
    // A host acts by its own right.
    await host.kick(moderator.id);
    const { entries } = await service.operator.audit();
    const deed = { actor: { by: "moderator", id: "game:9", name: "Nick 9" }, from: "127.0.0.1" };
    const target = `${rude.id} ${room.id}`;
    expect(entries.map(({ seq: _, atMs: __, ...entry }) => entry).reverse()).toEqual([
      { ...deed, action: "room.kick", target, reason: "insults", result: "done" },
      { ...deed, action: "room.unban", target, result: "done" },
      { ...deed, action: "room.unban", target, result: "member-unknown" },
    ]);
  });
});

describe("a guest", () => {
  it("with a device key is the same player next time, and becomes an account without losing its room", async () => {
    const { service, token } = await withAccounts();
    const first = await service.player("Guest", { device: DEVICE });
    expect(first.account).toMatch(/^device:[\w-]{22}$/);
    const { room } = await first.openRoom();
    first.drop();
    const second = await service.player("Other", { device: DEVICE });
    expect([second.id, second.name]).toEqual([first.id, "Guest"]);
    const third = await service.player("Guest", { resume: second.resumeToken, account: await token("7") });
    expect([third.id, third.account, third.state.room?.id]).toEqual([first.id, "game:7", room.id]);
  });

  it("cannot be taken up with a resume token that is older than one that was shown", async () => {
    const { service } = await withAccounts();
    const first = await service.player("Guest");
    const stolen = first.resumeToken;
    first.drop();
    const second = await service.player("Guest", { resume: stolen });
    const newer = second.resumeToken;
    second.drop();
    (await service.player("Guest", { resume: newer })).drop();
    await expect(service.player("Guest", { resume: stolen })).rejects.toMatchObject({ code: "token-invalid" });
  });
});

describe("a ban", () => {
  it("of a player puts its account out and keeps it out, over a restart, until it is lifted", async () => {
    const { service, token } = await withAccounts();
    const rude = await service.player("Rude", { account: await token("13") });
    const ended = new Promise((resolve) => rude.on("ended", resolve));
    const ban = await service.operator.banPlayer(rude.id, { reason: "cheating", hours: 2 });
    expect(ban).toMatchObject({ account: "game:13", reason: "cheating", by: "anybody here" });
    expect(await ended).toMatchObject({ problem: { code: "banned", detail: expect.stringContaining("cheating") } });
    const again = await service.restart();
    await expect(again.player("Rude", { account: await token("13") })).rejects.toMatchObject({ code: "banned" });
    expect((await again.operator.bans()).bans).toHaveLength(1);
    await again.operator.liftBan(ban.id);
    await again.player("Rude", { account: await token("13") });
  });

  it("of a guest keeps its network out, with other names and device keys, and no account of the game", async () => {
    const { service, token } = await withAccounts();
    const rude = await service.player("Rude");
    const bystander = await service.player("Known", { account: await token("1") });
    await service.operator.banPlayer(rude.id);
    await expect(service.player("Other")).rejects.toMatchObject({ code: "banned" });
    await expect(service.player("Other", { device: DEVICE })).rejects.toMatchObject({ code: "banned" });
    expect(bystander.isConnected).toBe(true);
    await service.operator.createBan({ network: "127.0.0.0/8", everybody: true });
    await expect(service.player("Late", { account: await token("2") })).rejects.toMatchObject({ code: "banned" });
    // Whoever is here and is concerned by it goes as well.
    expect((await service.operator.players()).players).toEqual([]);
  });
});
