import { beforeEach, describe, expect, it } from "vitest";
import { TestHarbor } from "../../testing/test-harbor.ts";

let test: TestHarbor;
let ansel: string;
let brisa: string;
beforeEach(() => {
  test = new TestHarbor();
  [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
});

function gather(kind: string): string {
  const { room } = test.ask(ansel, { do: "room.open", player: ansel, args: { kind, capacity: 3 } }).reply as {
    room: { id: string };
  };
  test.ask(brisa, { do: "room.join", player: brisa, args: { room: room.id } });
  test.ok({ do: "room.pick-level", player: ansel, args: { level: "brine-gate" } });
  return room.id;
}
const ready = (player: string, value = true) => test.ok({ do: "room.ready", player, args: { ready: value } });
const start = () => test.ok({ do: "room.start", player: ansel, args: {} });

describe("a countdown", () => {
  it("runs between start and travel, seen by all, and starts exactly once", () => {
    const room = gather("counted");
    for (const player of [ansel, brisa]) ready(player);
    start();
    expect(test.views.get(brisa)?.room).toMatchObject({
      phase: "counting",
      startsAtMs: test.now + 3_000,
      missing: [],
    });
    expect(test.refusal({ do: "room.start", player: ansel, args: {} }).code).toBe("wrong-phase");
    expect(test.refusal({ do: "room.join", player: test.connect("Corin"), args: { room } }).code).toBe("room-started");
    test.pass(2_999);
    expect(test.room(room).phase).toBe("counting");
    test.pass(1);
    expect(test.room(room)).toMatchObject({ phase: "travelling", startsAtMs: null });
    test.pass(10_000);
    expect(test.kinds().filter((kind) => kind === "room.started")).toHaveLength(1);
  });

  it("is stopped by the host, and can be begun again from its full length", () => {
    const room = gather("counted");
    for (const player of [ansel, brisa]) ready(player);
    start();
    test.pass(2_000);
    expect(test.refusal({ do: "room.stop-count", player: brisa, args: {} }).code).toBe("not-host");
    test.ok({ do: "room.stop-count", player: ansel, args: {} });
    expect(test.refusal({ do: "room.stop-count", player: ansel, args: {} }).code).toBe("wrong-phase");
    start();
    test.pass(2_999);
    expect(test.room(room).phase).toBe("counting");
    test.pass(1);
    expect(test.room(room).phase).toBe("travelling");
  });

  it.each([
    ["takes its word back", () => void ready(brisa, false), "Brisa is not ready"],
    ["loses the connection", () => void test.run({ do: "player.lose", player: brisa, connection: 1 }), "Brisa is away"],
    ["leaves", () => void test.ask(brisa, { do: "room.leave", player: brisa, args: {} }), "needs 1 more player"],
  ])("stops when a member %s, and says so", (_about, happen, why) => {
    const room = gather("counted");
    for (const player of [ansel, brisa]) ready(player);
    start();
    happen();
    expect(test.room(room).phase).toBe("gathering");
    const stopped = test.journal.find(({ event }) => event.kind === "room.count-stopped")?.event;
    expect(stopped).toMatchObject({ why });
    test.pass(10_000);
    expect(test.kinds()).not.toContain("room.started");
  });
});

describe("a room that starts by itself", () => {
  it("begins to count with the last thing that was missing, and not before", () => {
    const room = gather("eager");
    ready(ansel);
    expect(test.room(room).phase).toBe("gathering");
    ready(brisa);
    expect(test.room(room).phase).toBe("counting");
    test.pass(3_000);
    expect(test.room(room).phase).toBe("travelling");
  });

  it("begins anew when who was away is back", () => {
    const room = gather("eager");
    ready(ansel);
    ready(brisa);
    test.run({ do: "player.lose", player: brisa, connection: 1 });
    expect(test.room(room).phase).toBe("gathering");
    test.resume(brisa);
    expect(test.room(room).phase).toBe("counting");
  });
});
