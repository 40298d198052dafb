import { WEBHOOK_TYPE_PREFIX } from "@yellow-harbor/protocol";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Webhook } from "../config/webhook.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";
import { type Receiver, startReceiver } from "../testing/webhook-receiver.ts";

const receivers: Receiver[] = [];
beforeEach(() => {
  process.env["HOOK_ONE"] = `whsec_${Buffer.alloc(32, 7).toString("base64")}`;
});
afterEach(async () => {
  await endAll();
  for (const receiver of receivers.splice(0)) await receiver.close();
});

async function receive(): Promise<Receiver> {
  const receiver = await startReceiver();
  receivers.push(receiver);
  return receiver;
}

const hook = (url: string, events: readonly string[]) =>
  Webhook.parse({ url, secrets: ["one"], privateAddresses: true, events });

const namesOf = ({ events }: Receiver) =>
  events.flatMap(({ type, data }) =>
    type === `${WEBHOOK_TYPE_PREFIX}player.connected` ? [(data as { player: { name: string } }).player.name] : [],
  );

describe("webhooks that are changed while the service runs", () => {
  it("are told from then on, each of all it asks for, nothing twice, and nothing when they are taken away", async () => {
    const [first, second] = [await receive(), await receive()];
    const config = testConfig("good", (one) => ({ ...one, secrets: { one: { environment: "HOOK_ONE" } } }));
    let webhooks: (typeof config)["webhooks"] = {};
    const service = await startTestService(config, {
      reload: () => ({ ok: true, file: "harbor.yaml", config: { ...config, webhooks } }),
    });
    await service.player("Ansel");
    webhooks = { backend: hook(first.url, ["player.connected"]) };
    const { changes } = await service.operator.applyConfig();
    expect(changes.filter(({ path }) => path.startsWith("webhooks"))).toMatchObject([
      { path: "webhooks.backend", takes: "at-once" },
    ]);
    await service.player("Brisa");
    await first.until((one) => namesOf(one).includes("Brisa"));
    webhooks = { ...webhooks, other: hook(second.url, ["player.connected"]) };
    await service.operator.applyConfig();
    await service.player("Corin");
    await Promise.all([first, second].map((one) => one.until((told) => namesOf(told).includes("Corin"))));
    webhooks = { other: hook(second.url, ["player.connected"]) };
    await service.operator.applyConfig();
    await service.player("Dovie");
    await second.until((one) => namesOf(one).includes("Dovie"));
    expect([namesOf(first), namesOf(second)]).toEqual([
      ["Brisa", "Corin"],
      ["Corin", "Dovie"],
    ]);
    expect((await service.operator.webhooks()).webhooks.map(({ name }) => name)).toEqual(["other"]);
  });
});

describe("a webhook for the audit log", () => {
  it("is told what operators do, in order, when it names that, and not by asking for everything", async () => {
    const [audit, all] = [await receive(), await receive()];
    const service = await startTestService(
      testConfig("good", (one) => ({
        ...one,
        secrets: { one: { environment: "HOOK_ONE" } },
        webhooks: { audit: hook(audit.url, ["audit.added"]), all: hook(all.url, ["*"]) },
      })),
    );
    const { id } = await service.operator.createBan({ account: "game:4711" }, { reason: "cheating" });
    await service.operator.liftBan(id);
    await audit.until(({ events }) => events.length === 2);
    expect(audit.events.map(({ data }) => data)).toMatchObject([
      { entry: { action: "createBan", actor: { by: "open" }, result: "done" } },
      { entry: { action: "liftBan", target: id, result: "done" } },
    ]);
    await all.until(({ events }) => events.some(({ type }) => type.endsWith("ban.lifted")));
    expect(all.events.some(({ type }) => type.endsWith("audit.added"))).toBe(false);
    // What is told is what is kept.
    const { entries } = await service.operator.audit();
    await vi.waitFor(() => expect(audit.events.length).toBe(entries.length), { timeout: 30_000 });
  });
});
