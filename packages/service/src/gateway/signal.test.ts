import { afterEach, describe, expect, it } from "vitest";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, testConfig } from "../testing/test-service.ts";

afterEach(endAll);

const withSignals = (signals: object | undefined) =>
  testConfig("good", (one) =>
    Config.parse({ ...one, roomKinds: { crews: { ...one.roomKinds["crews"], ...(signals && { signals }) } } }),
  );

describe("a signal", () => {
  it("reaches one member alone, as it was sent, and so many of a pair", async () => {
    const service = await startTestService(withSignals({ perPair: 3, bytes: 64 }));
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const { room } = await ansel.openRoom({ capacity: 4 });
    for (const one of [brisa, corin]) await one.joinRoom({ room: room.id });
    const heard = new Promise((resolve) => brisa.on("signal", resolve));
    const strange: unknown[] = [];
    corin.on("signal", (one) => strange.push(one));
    const body = { candidate: "192.0.2.7:7801", of: [1, 2.5] };
    expect(await ansel.direct.signal(brisa.id, body)).toEqual({ delivered: true });
    expect(await heard).toEqual({ from: ansel.id, body });
    const codeOf = (to: string, what: object = body) =>
      ansel.direct.signal(to, what as typeof body).then(
        () => "sent",
        (error: { problem: { code: string } }) => error.problem.code,
      );
    expect(await codeOf(ansel.id)).toBe("not-yourself");
    expect(await codeOf("p_0000000000aa")).toBe("member-unknown");
    expect(await codeOf(brisa.id, { long: "x".repeat(64) })).toBe("relay-too-large");
    expect([await codeOf(brisa.id), await codeOf(brisa.id)]).toEqual(["sent", "relay-too-fast"]);
    // Another pair has its own.
    expect(await codeOf(corin.id)).toBe("sent");
    expect(strange).toHaveLength(1);
    brisa.drop();
    await ansel.until((state) => state.room?.members[brisa.id]?.presence === "away");
    await ansel.leaveRoom();
    expect(await codeOf(brisa.id)).toBe("not-in-room");
  });

  it("is off where the room kind does not let members connect directly", async () => {
    const service = await startTestService(withSignals(undefined));
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom();
    await brisa.joinRoom({ room: room.id });
    const refused = ansel.direct.signal(brisa.id, { candidate: "x" });
    await expect(refused).rejects.toMatchObject({ problem: { code: "signals-off" } });
    await ansel.direct.tellLatencies({ [brisa.id]: 42.4 });
    expect(ansel.state.room?.members[ansel.id]?.peersMs).toEqual({ [brisa.id]: 42 });
    expect((await service.operator.room(room.id)).members[ansel.id]).toMatchObject({ peersMs: { [brisa.id]: 42 } });
  });
});
