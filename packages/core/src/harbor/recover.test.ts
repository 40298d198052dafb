import { describe, expect, it } from "vitest";
import { testRules } from "../testing/rules.ts";
import { instanceOf, joinRoom, openRoom, playRoom } from "../testing/scenes.ts";
import { TestHarbor } from "../testing/test-harbor.ts";
import { invariantViolations } from "./invariants.ts";

describe("a harbor that is started anew", () => {
  it("has everybody away with the grace of where they are, in one event", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin] = [test.connect("Ansel"), test.connect("Brisa"), test.connect("Corin")];
    const room = openRoom(test, ansel);
    joinRoom(test, room, brisa);
    const from = test.journal.length;
    test.ok({ do: "harbor.recover" });
    expect(test.kinds(from)).toEqual(["harbor.recovered"]);
    expect(invariantViolations(test.harbor.state)).toEqual([]);
    const untilMs = [...test.room(room).members.values()].map(({ awayUntilMs }) => awayUntilMs);
    expect(untilMs).toEqual([test.now + 10_000, test.now + 10_000]);
    expect(test.watched).toEqual(test.harbor.view());
    // Who has resumed holds a view with the others away.
    test.resume(ansel);
    expect(test.views.get(ansel)?.room?.members[brisa]).toMatchObject({ presence: "away" });
    test.pass(5_000);
    expect(test.harbor.state.players.byId.has(corin)).toBe(false);
    test.pass(5_000);
    expect([...test.room(room).members.keys()]).toEqual([ansel]);
  });

  it("stops a countdown that needs somebody to be here, and keeps a run going", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin, dovie] = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name)) as [
      ...[string, string, string, string],
    ];
    const playing = openRoom(test, ansel);
    joinRoom(test, playing, brisa);
    playRoom(test, playing);
    const counting = openRoom(test, corin, { kind: "counted" });
    joinRoom(test, counting, dovie);
    test.ok({ do: "room.pick-level", player: corin, args: { level: "brine-gate" } });
    for (const player of [corin, dovie]) test.ok({ do: "room.ready", player, args: { ready: true } });
    test.ok({ do: "room.start", player: corin, args: {} });
    const { effects } = test.run({ do: "harbor.recover" });
    expect(effects).toEqual([{ effect: "watch-instance", instance: instanceOf(test, playing), pid: 4242 }]);
    expect(test.room(playing).phase).toBe("playing");
    expect(invariantViolations(test.harbor.state)).toEqual([]);
  });

  it("takes as many players as it is let have", () => {
    const test = new TestHarbor(testRules({ players: { ...testRules().players, limit: 20_000 } }));
    let stamps = 0;
    const stamp = () => ({ at: test.now, entropy: [stamps++, 5, 6, 7] as const });
    const connect = { do: "player.connect", name: "Fenn", build: "game-1", lobby: undefined, connection: 1 } as const;
    for (let n = 0; n < 12_000; n++) {
      expect(test.harbor.execute(connect, stamp()).refused).toBeUndefined();
      // The lobby notices that it is crowded.
      if (n === 10) test.pass(1_000);
    }
    const { appliedEvents } = test.harbor.execute({ do: "harbor.recover" }, stamp());
    expect(appliedEvents.map(({ event }) => event.kind)).toEqual(["harbor.recovered"]);
    expect([...test.harbor.state.players.byId.values()].every(({ presence }) => presence === "away")).toBe(true);
  });
});
