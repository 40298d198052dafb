import { describe, expect, it } from "vitest";
import { testRules } from "../../testing/rules.ts";
import { joinRoom, openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

/** A room of those, the first as host. */
function roomOf(test: TestHarbor, ...names: readonly string[]): { room: string; ids: string[] } {
  const ids = names.map((name) => test.connect(name));
  const room = openRoom(test, ids[0] ?? "", { capacity: 6 });
  joinRoom(test, room, ...ids.slice(1));
  return { room, ids };
}

describe("what a member brings into one room", () => {
  it("goes before what it brings everywhere, in that room alone, and ends with null", () => {
    const test = new TestHarbor();
    const { room, ids } = roomOf(test, "Ansel", "Brisa");
    const [ansel = "", brisa = ""] = ids;
    const set = (attributes: Record<string, string | number | null>) =>
      test.ask(ansel, { do: "room.set-attributes", player: ansel, args: { attributes } });
    test.ok({ do: "player.set-attributes", player: ansel, args: { attributes: { lantern: "amber", stones: 2 } } });
    set({ lantern: "green" });
    const seen = () => test.views.get(brisa)?.room?.members[ansel]?.attributes;
    expect(seen()).toEqual({ lantern: "green", stones: 2 });
    // What it brings everywhere changes on beside it.
    test.ok({ do: "player.set-attributes", player: ansel, args: { attributes: { stones: 5, lantern: "amber" } } });
    expect(seen()).toEqual({ lantern: "green", stones: 5 });
    set({ lantern: null });
    expect(seen()).toEqual({ lantern: "amber", stones: 5 });
    set({ lantern: "green" });
    test.ok({ do: "room.leave", player: ansel, args: {} });
    joinRoom(test, room, ansel);
    expect(test.room(room).members.get(ansel)?.attributes).toEqual({ lantern: "amber", stones: 5 });
  });

  it("is only what the game declares, and its own to say", () => {
    const test = new TestHarbor();
    const [ansel = ""] = roomOf(test, "Ansel", "Brisa").ids;
    const refusal = (attributes: Record<string, string | number>) =>
      test.refusal({ do: "room.set-attributes", player: ansel, args: { attributes } }).code;
    expect(refusal({ hat: "tall" })).toBe("attribute-unknown");
    expect(refusal({ rank: 3 })).toBe("attribute-not-yours");
    expect(refusal({ stones: 99 })).toBe("attribute-invalid");
    const alone = test.connect("Corin");
    const args = { attributes: { stones: 1 } };
    expect(test.refusal({ do: "room.set-attributes", player: alone, args }).code).toBe("not-in-room");
  });
});

describe("the best connected member", () => {
  const rules = testRules();
  const kinds = [...rules.roomKinds].map(
    ([id, kind]) => [id, { ...kind, nextHost: "best-connected" as const }] as const,
  );
  const tell = (test: TestHarbor, player: string, latencyMs: Record<string, number>) =>
    test.ask(player, { do: "room.tell-latencies", player, args: { latencyMs } });

  it("is host next: the one that is nearest to whoever is farthest from it, by the worse word of two", () => {
    const test = new TestHarbor(testRules({ roomKinds: new Map(kinds) }));
    const { room, ids } = roomOf(test, "Ansel", "Brisa", "Corin", "Dovie");
    const [ansel = "", brisa = "", corin = "", dovie = ""] = ids;
    tell(test, brisa, { [corin]: 1, [dovie]: 1 });
    tell(test, corin, { [brisa]: 90, [dovie]: 40 });
    tell(test, dovie, { [brisa]: 200, [corin]: 30, p_nobody: 5 });
    expect(test.views.get(ansel)?.room?.members[dovie]?.peersMs).toEqual({ [brisa]: 200, [corin]: 30 });
    // Brisa says that all are near; by what the others say, Corin is 90 ms from the farthest, and Brisa and Dovie 200 ms.
    test.ok({ do: "room.leave", player: ansel, args: {} });
    expect(test.room(room).host).toBe(corin);
    // Who has told nothing, and of whom nobody tells, is last.
    test.ok({ do: "room.leave", player: corin, args: {} });
    const edda = test.connect("Edda");
    joinRoom(test, room, edda);
    expect([brisa, dovie]).toContain(test.room(room).host);
    tell(test, dovie, {});
    expect(test.views.get(brisa)?.room?.members[dovie]?.peersMs).toBeUndefined();
  });

  it("is the one who came first while nobody has measured anything", () => {
    const test = new TestHarbor(testRules({ roomKinds: new Map(kinds) }));
    const { room, ids } = roomOf(test, "Ansel", "Brisa", "Corin");
    test.ok({ do: "room.leave", player: ids[0] ?? "", args: {} });
    expect(test.room(room).host).toBe(ids[1]);
  });
});
