import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { SignJWT } from "jose";
import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const SECRET = "planted-secret-of-the-game-back-end-0123456789";

/** A service whose players have friends by the word of the game's back end. */
async function withFriends() {
  const file = join(temporaryFolder(), "game.secret");
  writeFileSync(file, SECRET);
  const claims = { name: "nick", friends: "friends", blocked: "blocked" };
  const issuer = { issuer: "game", audience: "harbor", algorithms: ["HS256"], secretFile: file, claims };
  const config = testConfig("good", (one) => {
    const quayside = { ...one.lobbies.quayside, chat: {} };
    return Config.parse({
      ...one,
      lobbies: { quayside },
      players: { ...one.players, accounts: { issuers: { game: issuer } } },
    });
  });
  const service = await startTestService(config);
  const come = async (sub: string, said: { friends?: unknown; blocked?: unknown } = {}) => {
    const account = await new SignJWT({ iss: "game", aud: "harbor", sub, nick: `Nick ${sub}`, ...said })
      .setProtectedHeader({ alg: "HS256" })
      .setExpirationTime("5m")
      .sign(Buffer.from(SECRET));
    return service.player("Ignored", { account });
  };
  return { service, come };
}

describe("friends", () => {
  it("by the token are followed live and into their room, also after the connection was lost", async () => {
    const { service, come } = await withFriends();
    const ansel = await come("1", { friends: ["2", 3] });
    await ansel.relations.follow();
    expect(ansel.relations.friends).toEqual([]);
    /** Resolves once what is followed is as wanted. */
    const until = (holds: () => boolean) =>
      new Promise<void>((resolve) => {
        if (holds()) return resolve();
        const stop = ansel.on("friends", () => {
          if (!holds()) return;
          stop();
          resolve();
        });
      });
    const brisa = await come("2");
    await until(() => ansel.relations.friends.length === 1);
    const { room } = await brisa.openRoom({ name: "Slack water" });
    await until(() => ansel.relations.friends[0]?.room?.id === room.id);
    expect(ansel.relations.friends).toMatchObject([{ account: "game:2", name: "Nick 2", room: { isOpen: true } }]);
    const resumed = Promise.all([ansel, brisa].map((one) => new Promise((resolve) => one.on("resumed", resolve))));
    await service.restart();
    await resumed;
    await until(() => ansel.relations.friends[0]?.presence === "here");
    expect((await ansel.joinRoom({ friend: "game:2" })).room.id).toBe(room.id);
    await expect(brisa.joinRoom({ friend: "game:1" })).rejects.toMatchObject({ problem: { code: "not-friends" } });
    await brisa.relations.hide();
    await until(() => ansel.relations.friends.length === 0);
    expect((await ansel.relations.list()).friends).toEqual([]);
    await ansel.relations.unfollow();
  });

  it("are set by the back end for a player who is here, and read back", async () => {
    const { service, come } = await withFriends();
    const { operator } = service;
    const ansel = await come("1");
    await come("2");
    const set = await operator.setRelations("game:1", { friends: ["game:2"], blocked: ["game:5"] });
    expect(set).toEqual({
      player: ansel.id,
      name: "Nick 1",
      friends: ["game:2"],
      blocked: [{ account: "game:5" }],
      hidden: false,
    });
    expect(await operator.relations(ansel.id)).toEqual(set);
    expect((await ansel.relations.list()).friends).toMatchObject([{ account: "game:2" }]);
    await expect(operator.relations("game:9")).rejects.toMatchObject({ problem: { code: "player-unknown" } });
    await expect(operator.setRelations("game:1", {})).rejects.toMatchObject({ problem: { code: "request-invalid" } });
  });

  it("in a token that names too many, or no list, are no friends: the hello is refused", async () => {
    const { come } = await withFriends();
    for (const friends of ["2", [{}], Array.from({ length: 501 }, (_, n) => n)]) {
      await expect(come("1", { friends })).rejects.toMatchObject({ code: "account-claim-missing" });
    }
    await expect(come("1", { blocked: [""] })).rejects.toMatchObject({ code: "account-claim-missing" });
  });
});

describe("who is blocked", () => {
  it("is heard no more in the lobby, and does not learn it by the number of those it was sent to", async () => {
    const { come } = await withFriends();
    const [ansel, brisa, corin] = [await come("1"), await come("2"), await come("3")];
    await ansel.relations.block({ player: brisa.id });
    const heard: string[] = [];
    ansel.on("chat", ({ name, text }) => heard.push(`${name}: ${text}`));
    const last = new Promise<void>((resolve) => {
      ansel.on("chat", ({ text }) => text === "last" && resolve());
    });
    expect(await brisa.chat("rude")).toEqual({ delivered: 3 });
    await corin.chat("last");
    await last;
    expect(heard).toEqual(["Nick 3: last"]);
    expect((await ansel.relations.listBlocked()).blocked).toEqual([{ player: brisa.id, name: "Nick 2" }]);
    expect((await ansel.relations.unblock({ player: brisa.id })).blocked).toEqual([]);
  });
});
