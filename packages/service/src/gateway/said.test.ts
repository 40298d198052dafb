import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import type { PlayerClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { secretBytes, signatureHeaders } from "../webhooks/sign.ts";

afterEach(endAll);
const servers: ReturnType<typeof createServer>[] = [];
afterEach(() => {
  for (const one of servers.splice(0)) one.closeAllConnections();
});

const SECRET = "planted-secret-of-the-text-filter-01";

interface Shown {
  readonly kind: string;
  readonly text: string;
  readonly player?: { readonly name: string };
  readonly to?: string;
}

/** The game's own service that looks at texts: answers as told, and keeps what it was shown. */
async function filterThat(
  answers: (shown: Shown) => { readonly status?: number; readonly body?: unknown } | "nothing",
) {
  const shown: Shown[] = [];
  const signed: boolean[] = [];
  const server = createServer((request, response) => {
    let body = "";
    request.on("data", (chunk) => {
      body += chunk;
    });
    request.on("end", () => {
      const id = String(request.headers["webhook-id"]);
      const atS = Number(request.headers["webhook-timestamp"]);
      const own = signatureHeaders([secretBytes(SECRET) ?? Buffer.alloc(0)], { id, atS, body });
      signed.push(own["webhook-signature"] === request.headers["webhook-signature"]);
      const asked = JSON.parse(body) as Shown;
      shown.push(asked);
      const given = answers(asked);
      if (given === "nothing") return;
      response.writeHead(given.status ?? 200).end(JSON.stringify(given.body ?? { allow: true }));
    });
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/look`, shown, signed };
}

interface Talk {
  readonly directMessages?: object;
  readonly textFilter?: object;
}

const talking = ({ directMessages, textFilter }: Talk) =>
  testConfig("good", (one) => {
    process.env["LOOK_SECRET"] = SECRET;
    return Config.parse({
      ...one,
      secrets: { look: { environment: "LOOK_SECRET" } },
      lobbies: { quayside: { ...one.lobbies.quayside, chat: { perSecond: 100 }, directMessages } },
      players: {
        ...one.players,
        ...(textFilter && { textFilter: { secrets: ["look"], privateAddresses: true, ...textFilter } }),
      },
    });
  });

const next = <K extends "chat" | "message">(player: PlayerClient, kind: K) =>
  new Promise<string>((resolve) => player.on(kind, ({ name, text }) => resolve(`${name}: ${text}`)));

describe("a message to one player", () => {
  it("reaches that one alone, in a room or not, and nobody by name of another lobby or of nobody", async () => {
    const service = await startTestService(talking({ directMessages: {} }));
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    await brisa.openRoom();
    const heard = next(brisa, "message");
    expect(await ansel.relations.message(brisa.id, "Well built.")).toEqual({ delivered: true });
    expect(await heard).toBe("Ansel: Well built.");
    const codes = [
      [ansel.id, "not-yourself"],
      ["p_0000000000aa", "player-unknown"],
    ] as const;
    for (const [to, code] of codes) {
      await expect(ansel.relations.message(to, "Hello")).rejects.toMatchObject({ problem: { code } });
    }
    for (let n = 0; n < 4; n++) await ansel.relations.message(brisa.id, "again");
    await expect(ansel.relations.message(brisa.id, "again")).rejects.toMatchObject({
      problem: { code: "chat-too-fast" },
    });
  });

  it("is refused where there are none, and where they are for friends alone", async () => {
    const quiet = await startTestService(talking({}));
    const [ansel, brisa] = [await quiet.player("Ansel"), await quiet.player("Brisa")];
    await expect(ansel.relations.message(brisa.id, "x")).rejects.toMatchObject({ problem: { code: "messages-off" } });
    const friends = await startTestService(talking({ directMessages: { from: "friends" } }));
    const [corin, dovie] = [await friends.player("Corin", { device: "d".repeat(40) }), await friends.player("Dovie")];
    await expect(corin.relations.message(dovie.id, "x")).rejects.toMatchObject({ problem: { code: "not-friends" } });
    await friends.operator.setRelations(dovie.id, { friends: [corin.account ?? ""] });
    expect(await corin.relations.message(dovie.id, "x")).toEqual({ delivered: true });
  });

  it("is not heard from who is muted or blocked, who learns nothing of it", async () => {
    const service = await startTestService(talking({ directMessages: { perSecond: 100 } }));
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    await ansel.relations.block({ player: brisa.id, chatOnly: true });
    const heard = next(ansel, "message");
    expect(await brisa.relations.message(ansel.id, "rude")).toEqual({ delivered: true });
    await corin.relations.message(ansel.id, "kind");
    expect(await heard).toBe("Corin: kind");
    // Its invitations are heard all the same, until it is blocked altogether.
    await brisa.openRoom();
    const invited = new Promise((resolve) => ansel.on("invited", resolve));
    await brisa.inviting.invite({ player: ansel.id });
    await invited;
    const { blocked } = await ansel.relations.block({ player: brisa.id });
    expect(blocked).toEqual([{ player: brisa.id, name: "Brisa" }]);
    expect((await ansel.inviting.mute(false)).invitations).toEqual([]);
  });
});

describe("a report", () => {
  it("is written down with what the other said lately, also when that one has gone, and told to webhooks", async () => {
    const service = await startTestService(talking({ directMessages: {} }));
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const heard = next(ansel, "chat");
    await brisa.chat("Go home.");
    await heard;
    await brisa.relations.message(corin.id, "between us");
    await brisa.leave();
    await ansel.relations.report({ player: brisa.id, reason: "abuse", text: "shouts" });
    const { events } = await service.operator.journal({ kind: "player.reported" });
    expect(events.map(({ event }) => event)).toMatchObject([
      {
        player: { id: brisa.id, name: "Brisa" },
        by: { id: ansel.id, name: "Ansel" },
        reason: "abuse",
        text: "shouts",
        lobby: "quayside",
        said: [{ text: "Go home.", to: "lobby" }],
      },
    ]);
    const codes = [
      [ansel.id, "not-yourself"],
      ["p_0000000000aa", "player-unknown"],
    ] as const;
    for (const [player, code] of codes) {
      const report = ansel.relations.report({ player, reason: "other" });
      await expect(report).rejects.toMatchObject({ problem: { code } });
    }
    for (let n = 0; n < 2; n++) await ansel.relations.report({ player: corin.id, reason: "spam" });
    await expect(ansel.relations.report({ player: corin.id, reason: "spam" })).rejects.toMatchObject({
      problem: { code: "reports-too-fast" },
    });
  });
});

describe("a filter of texts", () => {
  it("sees each with whose it is, signed, and lets through, changes or refuses it, in order", async () => {
    const filter = await filterThat(({ text }) => {
      if (text.includes("rude")) return { body: { allow: false } };
      return { body: { allow: true, ...(text === "darn" && { text: "****" }) } };
    });
    const service = await startTestService(talking({ directMessages: {}, textFilter: { url: filter.url } }));
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const heard: string[] = [];
    brisa.on("chat", ({ text }) => heard.push(text));
    const said = ["first", "darn", "last"].map((text) => ansel.chat(text));
    await expect(ansel.chat("so rude")).rejects.toMatchObject({ problem: { code: "text-refused" } });
    await Promise.all(said);
    const message = next(brisa, "message");
    await ansel.relations.message(brisa.id, "darn");
    expect(await message).toBe("Ansel: ****");
    expect(heard).toEqual(["first", "****", "last"]);
    expect((await ansel.openRoom({ name: "darn" })).room.name).toBe("****");
    await expect(service.player("rude boy")).rejects.toMatchObject({ code: "text-refused" });
    const kinds = ["player-name", "player-name", "chat", "chat", "chat", "chat", "message", "room-name", "player-name"];
    expect(filter.shown.map(({ kind }) => kind)).toEqual(kinds);
    expect(filter.shown[6]).toMatchObject({ text: "darn", player: { id: ansel.id, name: "Ansel" }, to: brisa.id });
    expect(filter.signed.every(Boolean)).toBe(true);
  });

  it.each([
    ["pass", "nothing"],
    ["refuse", "nothing"],
    ["refuse", { status: 500 }],
    ["refuse", { body: { allow: "yes" } }],
    ["refuse", { body: { allow: true, text: "x".repeat(5_000) } }],
  ] as const)("that fails has texts let through or refused, as configured: %s, %j", async (onFailure, answer) => {
    const filter = await filterThat(() => answer);
    const textFilter = { url: filter.url, texts: ["chat"], timeoutMs: 100, onFailure };
    const service = await startTestService(talking({ textFilter }));
    const ansel = await service.player("Ansel");
    const said = ansel.chat("hello").then(
      () => "said",
      (error: { problem: { code: string } }) => error.problem.code,
    );
    const refused = answer !== "nothing" && "body" in answer && "text" in answer.body ? "text-refused" : undefined;
    expect(await said).toBe(onFailure === "pass" ? "said" : (refused ?? "text-filter-unavailable"));
  });
});
