import { Writable } from "node:stream";
import pino from "pino";
import { afterEach, describe, expect, it, vi } from "vitest";
import { endAll, sayToInstance, startTestService, startVoyage, testConfig } from "./testing/test-service.ts";

afterEach(endAll);

function kept() {
  const lines: Record<string, unknown>[] = [];
  const out = new Writable({
    write: (chunk, _encoding, done) => {
      lines.push(JSON.parse(String(chunk)));
      done();
    },
  });
  return { lines, log: pino({ level: "info", base: undefined }, out) };
}

describe("the log of a service", () => {
  it("has a line for what matters, with ids to go on by, and names of nobody", async () => {
    const { lines, log } = kept();
    const service = await startTestService(testConfig(), { log });
    const { ansel, brisa, room } = await startVoyage(service);
    let instance = "";
    for (const player of [ansel, brisa]) {
      const pass = await player.nextPass();
      instance = pass.instance ?? "";
      await sayToInstance(pass.address, pass.pass);
    }
    await ansel.until((state) => state.room?.phase === "playing");
    await Promise.all([ansel.leave(), brisa.leave()]);
    const of = (kind: string) => lines.find(({ msg }) => msg === kind);
    await vi.waitFor(() => expect(of("instance.exited")).toBeDefined(), { timeout: 30_000 });
    expect(of("room.opened")).toMatchObject({ level: 30, area: "harbor", room: room.id, seq: expect.any(Number) });
    expect(of("room.playing")).toMatchObject({ room: room.id, run: expect.any(String) });
    expect(of("instance.launched")).toMatchObject({
      area: "instances",
      instance,
      pool: "sluice",
      why: expect.any(String),
    });
    expect(of("instance.exited")).toMatchObject({ instance });
    expect(of("room.closed")).toMatchObject({ room: room.id });
    // Those who come and go are for whoever asks for it.
    expect(of("player.connected")).toBeUndefined();
    expect(JSON.stringify(lines)).not.toMatch(/Ansel|Brisa/);
  });

  it("warns of what somebody has to see to, and says what to do", async () => {
    const { lines, log } = kept();
    const service = await startTestService(testConfig("crash"), { log });
    await startVoyage(service);
    await vi.waitFor(
      () => {
        const failed = lines.find(({ msg, level }) => level === 40 && /instance\.(failed|exited)/.test(String(msg)));
        expect(failed).toMatchObject({
          instance: expect.any(String),
          remedy: expect.stringContaining("yh instance logs"),
        });
      },
      { timeout: 30_000 },
    );
  });
});
