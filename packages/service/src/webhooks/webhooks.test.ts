import { createHmac } from "node:crypto";
import type { ServerResponse } from "node:http";
import { CloudEvent, WEBHOOK_TYPE_PREFIX, type WebhookEventType, webhookEvents } from "@yellow-harbor/protocol";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Config } from "../config/schema.ts";
import { Webhook } from "../config/webhook.ts";
import { openSqliteHarbor } from "../journal/sqlite-harbor.ts";
import {
  endAll,
  startTestService,
  startVoyage,
  type TestService,
  temporaryFolder,
  testConfig,
} from "../testing/test-service.ts";
import { type Received, type Receiver, startReceiver } from "../testing/webhook-receiver.ts";

const SECRETS = [`whsec_${Buffer.alloc(32, 7).toString("base64")}`, "a text of its own that is long enough"];

const receivers: Receiver[] = [];
beforeEach(() => {
  process.env["HOOK_ONE"] = SECRETS[0];
  process.env["HOOK_TWO"] = SECRETS[1];
});
afterEach(async () => {
  await endAll();
  for (const receiver of receivers.splice(0)) await receiver.close();
});

async function receive(
  answer?: (received: Received, response: ServerResponse) => boolean | undefined,
): Promise<Receiver> {
  const receiver = await startReceiver(answer);
  receivers.push(receiver);
  return receiver;
}

const hook = (url: string, more: object = {}) =>
  Webhook.parse({ url, secrets: ["one"], privateAddresses: true, ...more });

const configWith = (webhooks: Config["webhooks"]): Config =>
  testConfig("good", (config) => ({
    ...config,
    secrets: { one: { environment: "HOOK_ONE" }, two: { environment: "HOOK_TWO" }, none: { environment: "HOOK_NONE" } },
    webhooks,
  }));

const typesOf = (events: readonly CloudEvent[]) => events.map(({ type }) => type.slice(WEBHOOK_TYPE_PREFIX.length));
const hasType =
  (type: WebhookEventType) =>
  ({ events }: Receiver) =>
    typesOf(events).includes(type);
const answerWith =
  (status: number, headers: Record<string, string> = {}, body = "") =>
  (_: Received, response: ServerResponse) => {
    response.writeHead(status, headers).end(body);
    return true;
  };

describe("a webhook", () => {
  it("is told a whole voyage, each event as its schema has it, those of one room in their order", async () => {
    const receiver = await receive();
    const service = await startTestService(configWith({ backend: hook(receiver.url) }));
    const { ansel, brisa, room } = await startVoyage(service);
    await ansel.nextPass();
    await Promise.all([ansel.leaveRoom(), brisa.leaveRoom()]);
    await receiver.until(hasType("instance.exited"));
    await receiver.until(hasType("room.closed"));
    for (const event of receiver.events) {
      const { type, data, source } = CloudEvent.parse(event);
      expect(source).toBe("/harbors/test-harbor");
      const { data: schema } = webhookEvents[type.slice(WEBHOOK_TYPE_PREFIX.length) as WebhookEventType];
      expect(schema.safeParse(data).error?.issues, JSON.stringify(event)).toBeUndefined();
    }
    const ofRoom = receiver.events.filter(({ partitionkey }) => partitionkey === room.id);
    expect(typesOf(ofRoom).slice(0, 3)).toEqual(["room.opened", "room.joined", "run.started"]);
    expect(typesOf(ofRoom).slice(-2)).toEqual(["room.departed", "room.closed"]);
    const numbers = ofRoom.map(({ id }) => Number(id));
    expect(numbers).toEqual([...numbers].sort((a, b) => a - b));
    expect(new Set(receiver.events.map(({ id }) => id)).size).toBe(receiver.events.length);
    expect(ofRoom[1]?.data).toMatchObject({
      player: { id: brisa.id, name: "Brisa" },
      members: 2,
      room: { code: room.code },
    });
    expect(JSON.stringify(receiver.events)).not.toContain(SECRETS[0]);
  });

  it("is told of parties and reports, with who is meant by them", async () => {
    const receiver = await receive();
    const service = await startTestService(
      configWith({ parties: hook(receiver.url, { events: ["party.*", "player.reported"] }) }),
    );
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { party } = await ansel.parties.open();
    await brisa.parties.join({ code: party.code });
    await ansel.parties.handOver(brisa.id);
    await ansel.relations.report({ player: brisa.id, reason: "name" });
    await brisa.parties.leave();
    await receiver.until(({ events }) => events.length >= 5);
    const told = receiver.events.map(({ type, data }) => [type.slice(WEBHOOK_TYPE_PREFIX.length), data]);
    expect(told).toMatchObject([
      ["party.opened", { party: party.id, leader: { name: "Ansel" }, lobby: "quayside" }],
      ["party.joined", { player: { name: "Brisa" }, members: 2 }],
      ["party.led", { leader: { name: "Brisa" } }],
      ["player.reported", { player: { name: "Brisa" }, by: { name: "Ansel" }, reason: "name", said: [] }],
      ["party.left", { player: { name: "Brisa" }, cause: "left", leader: { name: "Ansel" }, members: 1 }],
    ]);
    for (const { type, data } of receiver.events) {
      const own = webhookEvents[type.slice(WEBHOOK_TYPE_PREFIX.length) as WebhookEventType];
      expect(own.data.safeParse(data).success).toBe(true);
    }
  });

  it("is told only what it asks for, of its lobbies, in as few requests as it likes", async () => {
    const receiver = await receive();
    const rooms = await receive();
    const nowhere = await receive();
    const webhooks = {
      few: hook(receiver.url, { batch: 100 }),
      rooms: hook(rooms.url, { events: ["room.opened", "player.*"] }),
      nowhere: hook(nowhere.url, { lobbies: ["far-light"] }),
    };
    const config = configWith(webhooks);
    const { quayside } = config.lobbies;
    const lobbies = { ...config.lobbies, ...(quayside && { "far-light": { ...quayside, title: "Far Light" } }) };
    const service = await startTestService({ ...config, lobbies });
    const players = await Promise.all(["Ansel", "Brisa", "Corin"].map((name) => service.player(name)));
    await Promise.all(players.map((player) => player.openRoom()));
    await receiver.until(({ events }) => typesOf(events).filter((type) => type === "room.opened").length === 3);
    await rooms.until(({ events }) => events.length === 6);
    expect(new Set(typesOf(rooms.events))).toEqual(new Set(["player.connected", "room.opened"]));
    expect(receiver.requests[0]?.headers["content-type"]).toBe("application/cloudevents-batch+json; charset=utf-8");
    expect(rooms.requests[0]?.headers["content-type"]).toBe("application/cloudevents+json; charset=utf-8");
    expect(nowhere.requests).toEqual([]);
  });

  it("signs with both secrets while one takes the place of the other", async () => {
    const receiver = await receive();
    const service = await startTestService(configWith({ backend: hook(receiver.url, { secrets: ["one", "two"] }) }));
    expect(await service.operator.testWebhook("backend")).toMatchObject({ ok: true, text: "204" });
    const test = receiver.requests.find(({ events }) => typesOf(events)[0] === "webhook.test");
    const { "webhook-id": id, "webhook-timestamp": at, "webhook-signature": signatures } = test?.headers ?? {};
    expect(Math.abs(Date.now() / 1_000 - Number(at))).toBeLessThan(30);
    const sumWith = (key: Buffer | string) =>
      createHmac("sha256", key).update(`${id}.${at}.${test?.body}`).digest("base64");
    expect(signatures).toBe(`v1,${sumWith(Buffer.alloc(32, 7))} v1,${sumWith(SECRETS[1] ?? "")}`);
  });

  it("gets what it did not take after a restart of the service, and nothing that it has taken", async () => {
    let isOpen = false;
    const receiver = await receive((_, response) => (isOpen ? undefined : answerWith(503)(_, response)));
    const service = await startTestService(
      configWith({ backend: hook(receiver.url, { events: ["player.connected"] }) }),
    );
    for (const name of ["Ansel", "Brisa", "Corin"]) await service.player(name);
    await receiver.until(({ requests }) => requests.length >= 3);
    const again = await service.restart();
    isOpen = true;
    await receiver.until(({ events }) => events.slice(-3).every(({ type }) => type.endsWith("connected")));
    await vi.waitUntil(async () => (await again.operator.webhooks()).webhooks[0]?.waiting === 0, { timeout: 30_000 });
    const before = receiver.requests.length;
    const last = await again.restart();
    await last.player("Dara");
    await receiver.until(({ requests }) => requests.length > before);
    expect(receiver.requests.slice(before).flatMap(({ events }) => events)).toMatchObject([
      { data: { player: { name: "Dara" } } },
    ]);
    const told = new Set(receiver.events.map(({ data }) => (data as { player: { name: string } }).player.name));
    expect(told).toEqual(new Set(["Ansel", "Brisa", "Corin", "Dara"]));
  });

  it("begins with what happens from when it is first there", async () => {
    const service = await startTestService(testConfig());
    await service.player("Ansel");
    const receiver = await receive();
    const later = await service.restart({
      config: { ...configWith({ backend: hook(receiver.url, { events: ["player.connected"] }) }), data: service.data },
    });
    await later.player("Brisa");
    await receiver.until(({ events }) => events.length > 0);
    expect(receiver.events).toMatchObject([{ data: { player: { name: "Brisa" } } }]);
  });

  it("is told on beside an event that it refuses, which is put aside and can be sent again or forgotten", async () => {
    let refuses = true;
    const isRefused = ({ events }: Received) =>
      refuses && events.some(({ data }) => JSON.stringify(data).includes("Brisa"));
    const receiver = await receive((received, response) =>
      isRefused(received) ? answerWith(422, {}, "no such player")(received, response) : undefined,
    );
    const service = await startTestService(
      configWith({ backend: hook(receiver.url, { events: ["player.*"], batch: 10 }) }),
    );
    for (const name of ["Ansel", "Brisa", "Corin"]) await service.player(name);
    const dead = () => service.operator.deadEvents("backend");
    await vi.waitUntil(async () => (await dead()).events.length === 1, { timeout: 30_000 });
    await receiver.until(({ events }) => JSON.stringify(events.at(-1)).includes("Corin") || typesOf(events).length > 3);
    const [put] = (await dead()).events;
    expect(put).toMatchObject({
      type: "player.connected",
      why: "422: no such player",
      again: false,
      event: { data: { player: { name: "Brisa" } } },
    });
    expect(await service.operator.resendEvents("backend", [put?.number ?? 0])).toEqual({ events: 1 });
    await vi.waitUntil(async () => (await dead()).events[0]?.again === false, { timeout: 30_000 });
    refuses = false;
    expect(await service.operator.resendEvents("backend")).toEqual({ events: 1 });
    await vi.waitUntil(async () => (await dead()).events.length === 0, { timeout: 30_000 });
    expect((await service.operator.webhooks()).webhooks).toMatchObject([{ dead: 0, waiting: 0 }]);
    expect(await service.operator.discardEvents("backend")).toEqual({ events: 0 });
    await expect(service.operator.deadEvents("nowhere")).rejects.toMatchObject({ code: "webhook-unknown" });
  });

  it("gets all that was put aside when that is asked for, however much it is, in its order", async () => {
    const data = temporaryFolder();
    const kept = await openSqliteHarbor(data);
    await kept.webhooks.openWebhooks(["backend"]);
    const dead = Array.from({ length: 2_500 }, (_, n) => ({
      number: n + 1,
      type: "room.closed" as const,
      atMs: 1_000,
      event: JSON.stringify({ id: String(n + 1), subject: `r_${n % 7}`, partitionkey: `r_${n % 7}` }),
      attempts: 3,
      givenUpAtMs: 2_000,
      why: "500",
    }));
    await kept.webhooks.noteWebhook({ place: { webhook: "backend", upTo: 0, beyond: [] }, dead, revived: [] });
    await kept.close();
    const receiver = await receive();
    const service = await startTestService(
      configWith({ backend: hook(receiver.url, { events: ["room.closed"], batch: 100 }) }),
      { data },
    );
    expect(await service.operator.resendEvents("backend")).toEqual({ events: 2_500 });
    await vi.waitUntil(async () => (await service.operator.deadEvents("backend")).events.length === 0, {
      timeout: 30_000,
    });
    const came = [...new Set(receiver.events.map(({ id }) => Number(id)))];
    expect(came.length).toBe(2_500);
    for (let room = 0; room < 7; room++) {
      const own = came.filter((number) => (number - 1) % 7 === room);
      expect(own).toEqual([...own].sort((a, b) => a - b));
    }
    expect((await service.operator.webhooks()).webhooks).toMatchObject([{ dead: 0, waiting: 0 }]);
  });

  it("that takes nothing for too long has its events put aside, and gets all that comes once it is back", async () => {
    let isOpen = false;
    const receiver = await receive((_, response) => (isOpen ? undefined : answerWith(500)(_, response)));
    const service = await startTestService(
      configWith({ backend: hook(receiver.url, { events: ["player.*"], giveUpAfterMs: 1_000 }) }),
    );
    for (const name of ["Ansel", "Brisa"]) await service.player(name);
    await vi.waitUntil(async () => (await service.operator.deadEvents("backend")).events.length === 2, {
      timeout: 30_000,
    });
    isOpen = true;
    await service.operator.resendEvents("backend");
    await vi.waitUntil(async () => (await service.operator.webhooks()).webhooks[0]?.sent === 2, { timeout: 30_000 });
  });

  it.each<[string, (received: Received, response: ServerResponse) => boolean, RegExp]>([
    ["redirects", answerWith(302, { location: "http://127.0.0.1:1/" }), /^302: redirects are not followed/],
    ["never answers", () => true, /no answer came within 0.3 s/],
    [
      "sends a hundred megabytes",
      (_, response) => {
        response.writeHead(500);
        for (let n = 0; n < 100; n++) response.write(Buffer.alloc(1_048_576, "x"));
        return true;
      },
      /^500: x{200}$/,
    ],
    [
      "hangs up",
      (_, response) => {
        response.destroy();
        return true;
      },
      /socket hang up/,
    ],
  ])("that %s is tried again, and holds up nobody", async (what, answer, why) => {
    const receiver = await receive(answer);
    const service = await startTestService(
      configWith({ backend: hook(receiver.url, { timeoutMs: what === "never answers" ? 300 : 10_000 }) }),
    );
    const player = await service.player("Ansel");
    const { room } = await player.openRoom();
    expect(room.host).toBe(player.id);
    await vi.waitUntil(async () => (await service.operator.webhooks()).webhooks[0]?.lastFailure !== undefined, {
      timeout: 30_000,
    });
    const { webhooks } = await service.operator.webhooks();
    expect(webhooks[0]).toMatchObject({ state: "failing", lastFailure: { text: expect.stringMatching(why) } });
    expect(webhooks[0]?.nextAttemptAtMs).toBeGreaterThan(Date.now() - 1_000);
  });

  it.each([
    ["127.0.0.1", "http://127.0.0.1:9/x"],
    ["a name that leads there", "http://localhost:9/x"],
    ["::1", "http://[::1]:9/x"],
    ["a private network", "http://10.1.2.3/x"],
    ["the metadata of a cloud", "http://169.254.169.254/latest"],
    ["an IPv4 address in an IPv6 one", "http://[::ffff:127.0.0.1]:9/x"],
  ])("does not go to %s unless that is meant", async (_what, url) => {
    const service = await startTestService(configWith({ backend: hook(url, { privateAddresses: false }) }));
    const { ok, text } = await service.operator.testWebhook("backend");
    expect(ok).toBe(false);
    expect(text).toContain("set privateAddresses if that is meant");
  });

  it("without its secret sends nothing, and says so", async () => {
    const receiver = await receive();
    const service = await startTestService(configWith({ backend: hook(receiver.url, { secrets: ["none"] }) }));
    expect(await service.operator.testWebhook("backend")).toMatchObject({
      ok: false,
      text: expect.stringContaining("secret of webhook backend cannot be read"),
    });
    expect(receiver.requests).toEqual([]);
  });

  it("is not told the name of somebody who was erased before it could be", async () => {
    let isOpen = false;
    const receiver = await receive((_, response) => (isOpen ? undefined : answerWith(503)(_, response)));
    const service: TestService = await startTestService(
      configWith({ backend: hook(receiver.url, { events: ["player.*"] }) }),
    );
    const ansel = await service.player("Anselm the Erased");
    const { id } = ansel;
    await ansel.leave();
    await service.operator.erasePerson(id);
    // What a process has in memory was read before: another one reads what is kept now.
    const again = await service.restart();
    const before = receiver.requests.length;
    isOpen = true;
    await vi.waitUntil(async () => (await again.operator.webhooks()).webhooks[0]?.sent === 2, { timeout: 30_000 });
    const sent = receiver.requests.slice(before).flatMap(({ events }) => events);
    expect(sent.map(({ subject }) => subject)).toEqual([id, id]);
    expect(JSON.stringify(sent)).not.toContain("Anselm");
  });
});
